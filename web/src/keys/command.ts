/** What a command is, and what the tables of commands share. */

import { challenge, stageNeighbour, useStage } from "../bench/stageStore";
import { activate, neighbour } from "../shoot/moving";
import { useShoot } from "../shoot/store";

export type Screen = "bench" | "wall" | "handoff";

export interface Command {
  id: string;
  title: string;
  section: "Decide" | "Rate" | "Move" | "Stage" | "Look" | "Group" | "Select" | "Filter" | "Go";
  /** Keys as `event.key` in lower case, with Ctrl+, Alt+, Shift+ before it. The first is shown. */
  keys: string[];
  screens: Screen[];
  run: (at: number, go: (screen: Screen) => void) => void;
  /** Called when the key is let go of, where it is held. */
  end?: () => void;
}

/** Asks the stage to show a point of the active picture, px of the full size, at 100 %. */
export function showPoint(point: { x: number; y: number }) {
  window.dispatchEvent(new CustomEvent("winnow:show-point", { detail: point }));
}

/** Raised by commands that only one screen can carry out; that screen listens. */
export function shout(what: string) {
  window.dispatchEvent(new CustomEvent(`winnow:${what}`));
}

/** The frame that a step leads to: on the bench over what left the stage. */
export function step(by: 1 | -1): number | null {
  return useStage.getState().open ? stageNeighbour(by) : neighbour(by);
}

export function goTo(id: number | null, at: number) {
  if (id !== null && useStage.getState().open) challenge(id);
  activate(id, at);
}

export function active(): number | null {
  return useShoot.getState().active;
}

export const PICTURES: Screen[] = ["bench", "wall"];
export const EVERYWHERE: Screen[] = ["bench", "wall", "handoff"];
export const stars = [1, 2, 3, 4, 5];
