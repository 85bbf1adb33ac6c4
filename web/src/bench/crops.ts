/** Small squares cut out of previews: a preview is decoded once for all that is wanted of it. */

import { type Frame, pictureUrl } from "../api/client";
import { sizeOf } from "./zoom";

/** Squares kept, about 15 kB each. */
const KEPT = 2000;
/** Previews decoded at once, each some 20 MB. */
const DECODED = 4;

const crops = new Map<string, Promise<ImageBitmap | null>>();
const previews = new Map<string, Promise<ImageBitmap>>();

/** A square of a frame (px of the full picture) at a size (device px); null where there is no preview yet. */
export function cropOf(
  frame: Frame,
  at: { x: number; y: number; reach: number },
  side: number,
): Promise<ImageBitmap | null> {
  const key = `${frame.version} ${Math.round(at.x)} ${Math.round(at.y)} ${Math.round(at.reach)} ${side}`;
  let made = crops.get(key);
  if (!made) {
    made = cut(frame, at, side).catch(() => {
      crops.delete(key);
      return null;
    });
    crops.set(key, made);
    const oldest = crops.keys().next().value;
    if (crops.size > KEPT && oldest !== undefined) crops.delete(oldest);
  }
  return made;
}

async function cut(
  frame: Frame,
  at: { x: number; y: number; reach: number },
  side: number,
): Promise<ImageBitmap> {
  const preview = await previewOf(frame);
  const scale = preview.width / sizeOf(frame).width;
  const reach = at.reach * scale;
  return createImageBitmap(
    preview,
    Math.round(at.x * scale - reach),
    Math.round(at.y * scale - reach),
    Math.max(1, Math.round(2 * reach)),
    Math.max(1, Math.round(2 * reach)),
    { resizeWidth: side, resizeHeight: side, resizeQuality: "high" },
  );
}

function previewOf(frame: Frame): Promise<ImageBitmap> {
  const known = previews.get(frame.version);
  if (known) return known;
  const made = decode(frame);
  previews.set(frame.version, made);
  made.catch(() => previews.delete(frame.version));
  for (const [version, old] of previews) {
    if (previews.size <= DECODED) break;
    previews.delete(version);
    // Squares that wait for it are cut in the same turn as it arrives.
    void old.then((bitmap) => setTimeout(() => bitmap.close(), 2000)).catch(() => undefined);
  }
  return made;
}

async function decode(frame: Frame): Promise<ImageBitmap> {
  const answer = await fetch(pictureUrl(frame, "preview"));
  if (!answer.ok) throw new Error(`${answer.status}`);
  return createImageBitmap(await answer.blob());
}
