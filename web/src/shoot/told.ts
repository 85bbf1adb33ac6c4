/** Frames as the server told them, and the marks that wait for it: what is shown is the one over the other. */

import type { Frame } from "../api/client";
import type { Waiting } from "./waiting";

export const told = new Map<number, Frame>();
let waiting: Waiting = new Map();

export function forgetTold() {
  told.clear();
  waiting = new Map();
}

/** Replaces the marks that wait; the frames that this may concern. */
export function setWaiting(now: Waiting): Set<number> {
  const concerned = new Set([...waiting.keys(), ...now.keys()]);
  waiting = now;
  return concerned;
}

/** A frame with the marks that wait. */
export function shown(id: number): Frame | undefined {
  const frame = told.get(id);
  const marks = waiting.get(id);
  return frame && marks ? { ...frame, ...marks } : frame;
}

/** Frames that are shown otherwise than the server counts them: as it told them, and as they are shown. */
export function* shownOtherwise(): Iterable<[Frame, Frame]> {
  for (const id of waiting.keys()) {
    const [before, now] = [told.get(id), shown(id)];
    if (before && now) yield [before, now];
  }
}
