/** Painting: a mark is chosen, and every frame that is clicked or dragged over gets it, or loses it. One stroke is one
 * action. */

import { create } from "zustand";
import type { Decision } from "../api/client";
import { decide, label, rate } from "./deciding";
import { labelId } from "./labels";
import { useShoot } from "./store";

export type Paint =
  | { kind: "decision"; value: Decision }
  | { kind: "rating"; value: number }
  | { kind: "label"; value: string | null };

interface PaintState {
  /** Painting; without a paint, one is to be chosen first. */
  on: boolean;
  paint: Paint | null;
  /** Frames under the stroke that is being drawn. */
  stroke: ReadonlySet<number>;
}

const OFF: PaintState = { on: false, paint: null, stroke: new Set() };

export const usePaint = create<PaintState>(() => OFF);

const { getState: get, setState: set } = usePaint;

export function togglePainting() {
  set(get().on ? OFF : { ...OFF, on: true });
}

export function stopPainting() {
  set(OFF);
}

/** Takes the mark that a key stands for as the paint, where one is painting. Returns whether it did. */
export function choosePaint(paint: Paint): boolean {
  if (get().on) set({ paint });
  return get().on;
}

/** The stroke goes over a frame. */
export function strokeOver(id: number) {
  const { stroke, paint } = get();
  if (paint && !stroke.has(id)) set({ stroke: new Set(stroke).add(id) });
}

/** The stroke ends: its frames get the mark; if the first one had it, they lose it. */
export function endStroke(at: number) {
  const { stroke, paint } = get();
  const ids = [...stroke];
  const [first] = ids;
  set({ stroke: new Set() });
  if (!paint || first === undefined) return;
  const takesOff = has(first, paint);
  if (paint.kind === "decision") decide(takesOff ? "undecided" : paint.value, at, ids, true);
  else if (paint.kind === "rating") rate(takesOff ? 0 : paint.value, at, ids, true);
  else label(takesOff ? null : paint.value, at, ids, true);
}

function has(id: number, paint: Paint): boolean {
  const frame = useShoot.getState().frames.get(id);
  if (!frame) return false;
  return paint.kind === "label" ? labelId(frame.label) === paint.value : frame[paint.kind] === paint.value;
}
