/** The pass that the person is in: which frames it asks about, and how far they are. Without it, nothing here is of any
 * weight. */

import { create } from "zustand";
import type { Frame } from "../../api/client";
import type { components } from "../../api/schema";
import { useShoot } from "../store";

type Schemas = components["schemas"];
export type Pass = Schemas["Pass"];
export type OpenWalk = Schemas["OpenWalk"];
export type Does = Schemas["Does"];
export type MarkedField = "decision" | "rating" | "label" | "turn" | "words" | "point" | "group";

interface WalkState {
  walk: OpenWalk | null;
  /** The place of each frame that it asks about in its order. */
  places: ReadonlyMap<number, number>;
  /** Frames that the person has gone on from. */
  seen: ReadonlySet<number>;
  /** The end was reached: what it did is on screen. */
  ended: boolean;
  /** Grows when the server was told how far one is. */
  told: number;
  /** Frames that are shown together, to be rejected at once: what was asked for, and those that were taken out. */
  bulk: { show: string; ids: number[]; out: ReadonlySet<number> } | null;
}

export const NO_WALK: WalkState = {
  walk: null,
  places: new Map(),
  seen: new Set(),
  ended: false,
  told: 0,
  bulk: null,
};

export const useWalk = create<WalkState>(() => NO_WALK);

/** The pass that one is in, or null. */
export function passNow(): Pass | null {
  return useWalk.getState().walk?.definition ?? null;
}

/** Whether a pass that one is in asks about a frame, and it has not left; outside of passes all are asked about. */
export function isAsked(id: number): boolean {
  const { walk, places } = useWalk.getState();
  if (!walk) return true;
  const frame = useShoot.getState().frames.get(id);
  const isGone = frame && goesByFrames(walk.definition) && leaves(walk.definition, frame);
  return places.has(id) && !isGone;
}

/** Whether rejects are what is looked at: then they are shown as they are. */
export function looksAtRejects(walk: OpenWalk | null): boolean {
  return walk?.definition.leaves === "keepers";
}

export function goesByFrames({ order }: Pass): boolean {
  return order === "frame by frame";
}

/** Whether a pass is done with what was decided of a frame: it leaves. */
export function leaves({ leaves }: Pass, { decision }: Frame): boolean {
  if (leaves === "rejects") return decision === "reject";
  if (leaves === "keepers") return decision === "keep";
  return leaves === "what is decided" && decision !== "undecided";
}

/** Whether a frame is in view in the pass that one is in, if any: those that it asks about and that have not left, and,
 * where it wants them, keepers of their groups. besides: the groups that it asks about. */
export function inWalk(frame: Frame, besides: ReadonlySet<number>): boolean {
  const { walk, places } = useWalk.getState();
  if (!walk) return true;
  const { definition } = walk;
  if (definition.beside_keeper && frame.decision === "keep" && besides.has(frame.group)) return true;
  return places.has(frame.id) && !(goesByFrames(definition) && leaves(definition, frame));
}

/** The groups of the frames that a pass asks about. */
export function groupsAsked(frames: ReadonlyMap<number, Frame>): ReadonlySet<number> {
  const { walk } = useWalk.getState();
  if (!walk?.definition.beside_keeper) return new Set();
  return new Set(walk.frames.flatMap((id) => frames.get(id)?.group ?? []));
}

/** Whether a pass is done with a frame. */
export function isDone({ done }: Pass, frame: Frame, seen: ReadonlySet<number>): boolean {
  if (done === "decided") return frame.decision !== "undecided";
  if (done === "rated") return frame.rating > 0 || frame.decision === "reject";
  if (done === "labelled") return frame.label !== null || frame.decision === "reject";
  return seen.has(frame.id);
}
