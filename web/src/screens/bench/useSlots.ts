import { useRef } from "react";

export interface Slot {
  key: number;
  /** It shows the frame that it showed before: it may move to its new place. */
  stays: boolean;
}

/** A slot for each frame on the stage. Frames that stay keep theirs; slots of frames that left are used again, because
 * making a canvas takes longer than drawing into it. */
export function useSlots(ids: number[]): Map<number, Slot> {
  const before = useRef(new Map<number, Slot>());
  const last = useRef("");
  const line = ids.join();
  if (line === last.current) return before.current;
  const now = new Map<number, Slot>();
  for (const id of ids) {
    const slot = before.current.get(id);
    if (slot) now.set(id, { key: slot.key, stays: true });
  }
  const taken = new Set([...now.values()].map((slot) => slot.key));
  let free = 0;
  for (const id of ids) {
    if (now.has(id)) continue;
    while (taken.has(free)) free++;
    taken.add(free);
    now.set(id, { key: free, stays: false });
  }
  before.current = now;
  last.current = line;
  return now;
}
