/** What matters in a picture, as the person says: journalled and undone like marks. */

import { newKey } from "../api/client";
import { rests } from "./marking";
import { putIn } from "./outbox/outbox";
import { useShoot } from "./store";
import { noteStep } from "./trail";

/** Says that a point of a frame (px of the full picture) matters, in its whole group; said of the point that is there
 * already, takes it back. */
export function putPoint(frame: number, { x, y }: { x: number; y: number }) {
  if (rests("point")) return;
  const key = newKey();
  noteStep(key, [], []);
  void putIn(useShoot.getState().shootId, key, { kind: "point", frameId: frame, x, y });
}
