/** Small squares cut out of previews, kept for the page's life. */

import { LRUCache } from "lru-cache";
import { type Frame, pictureUrl } from "../api/client";
import { decodeCrop } from "./decoding";
import { longEdge, MEDIUM_EDGE, sizeOf } from "./zoom";

/** Squares kept, about 15 kB each. */
const KEPT = 2000;

const crops = new LRUCache<string, Promise<ImageBitmap | null>>({
  max: KEPT,
  dispose: (made) => void made.then((bitmap) => bitmap?.close()),
});

/** A square of a frame (px of the full picture) at a size (device px); null where there is no preview yet. */
export function cropOf(
  frame: Frame,
  at: { x: number; y: number; reach: number },
  side: number,
): Promise<ImageBitmap | null> {
  const key = `${frame.version} ${Math.round(at.x)} ${Math.round(at.y)} ${Math.round(at.reach)} ${side}`;
  const known = crops.get(key);
  if (known) return known;
  const { x, y, reach } = at;
  const square = {
    left: x - reach,
    top: y - reach,
    side: 2 * reach,
    of: sizeOf(frame).width,
    wanted: side,
  };
  const kind = (2 * reach * MEDIUM_EDGE) / longEdge(sizeOf(frame)) >= side ? "medium" : "preview";
  const made = decodeCrop(pictureUrl(frame, kind), square).catch(() => {
    crops.delete(key);
    return null;
  });
  crops.set(key, made);
  return made;
}
