/** Marks that are being put into the outbox and are not shown yet: who marks fast is ahead of the screen, and what the
 * next key does rests on what was said, not on what is drawn. */

import type { Frame } from "../api/client";
import { useShoot } from "./store";
import type { MarkValues } from "./waiting";

const underWay = new Map<string, [number, MarkValues][]>();

/** Marks are under way until what is returned is called. */
export function setOut(key: string, values: [number, MarkValues][]): () => void {
  underWay.set(key, values);
  return () => underWay.delete(key);
}

/** A frame with all marks that were made on it. */
export function latest(id: number): Frame | undefined {
  const frame = useShoot.getState().frames.get(id);
  if (!frame || !underWay.size) return frame;
  const values = [...underWay.values()].flat().filter(([one]) => one === id);
  return values.length ? Object.assign({}, frame, ...values.map(([, one]) => one)) : frame;
}
