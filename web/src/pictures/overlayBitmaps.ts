/** Overlays made of decoded pictures by a worker, of the part that is in sight and some around it: moving a picture about
 * draws them again and computes nothing. */

import { decodeOverlay } from "./decoding";
import type { Wanted } from "./overlays";
import type { Part, Placement, Size } from "./zoom";

interface Made {
  key: string;
  part: Part;
  bitmap: ImageBitmap;
}

/** A decoded picture, or a part of one. */
export interface Source {
  bitmap: ImageBitmap;
  /** Tells it from others. */
  name: string;
  part: Part;
}

/** Overlays kept: as many frames as stand on a stage. */
const KEPT = 24;
/** So much of what is in sight is made ready on each side of it. */
const AROUND = 0.5;

const kept = new Map<number, Made>();
const underWay = new Set<string>();
const listeners = new Set<(frame: number) => void>();

/** Calls back when an overlay of a frame is there. Returns what ends that. */
export function onOverlay(listener: (frame: number) => void): () => void {
  listeners.add(listener);
  return () => {
    listeners.delete(listener);
  };
}

/** What there is to be drawn over a frame by now; what is missing of it is made. `lies`: where the picture lies in its cell
 * (device px). */
export function overlayOf(
  frame: number,
  source: Source,
  lies: Placement,
  cell: Size,
  wanted: Wanted,
): { bitmap: ImageBitmap; part: Part } | null {
  if (!wanted.peaking && !wanted.clipping) return null;
  const key = `${source.name} ${lies.scale} ${wanted.peaking} ${wanted.clipping}`;
  const made = kept.get(frame);
  const seen = within(inSight(lies, cell, 0), source.part);
  if (made?.key !== key || !contains(made.part, seen)) {
    const part = within(inSight(lies, cell, AROUND), source.part);
    if (part.width >= 1 && part.height >= 1) void make(frame, key, source, part, lies.scale, wanted);
  }
  return made?.key === key ? made : null;
}

async function make(frame: number, key: string, source: Source, part: Part, scale: number, wanted: Wanted) {
  const order = `${frame} ${key} ${Object.values(part).map(Math.round).join()}`;
  if (underWay.has(order)) return;
  underWay.add(order);
  try {
    const has = source.bitmap.width / source.part.width;
    const size = Math.min(1, scale / has);
    const [left, top] = [(part.left - source.part.left) * has, (part.top - source.part.top) * has];
    const [width, height] = [Math.round(part.width * has), Math.round(part.height * has)];
    const cut = await createImageBitmap(source.bitmap, Math.round(left), Math.round(top), width, height, {
      resizeWidth: Math.max(1, Math.round(width * size)),
      resizeHeight: Math.max(1, Math.round(height * size)),
      resizeQuality: "low",
    });
    keep(frame, { key, part, bitmap: await decodeOverlay(cut, wanted) });
  } catch {
    // The picture was let go of meanwhile: it is asked for again when it is drawn again.
  } finally {
    underWay.delete(order);
  }
}

function keep(frame: number, made: Made) {
  kept.get(frame)?.bitmap.close();
  kept.delete(frame);
  kept.set(frame, made);
  for (const [old, { bitmap }] of kept) {
    if (kept.size <= KEPT) break;
    bitmap.close();
    kept.delete(old);
  }
  for (const listener of listeners) listener(frame);
}

/** The part of a picture that its cell shows, and around it a share of that. */
function inSight(lies: Placement, cell: Size, around: number): Part {
  const [width, height] = [cell.width / lies.scale, cell.height / lies.scale];
  return {
    left: -lies.left / lies.scale - around * width,
    top: -lies.top / lies.scale - around * height,
    width: (1 + 2 * around) * width,
    height: (1 + 2 * around) * height,
  };
}

function within(part: Part, whole: Part): Part {
  const left = Math.max(part.left, whole.left);
  const top = Math.max(part.top, whole.top);
  const width = Math.min(part.left + part.width, whole.left + whole.width) - left;
  const height = Math.min(part.top + part.height, whole.top + whole.height) - top;
  return { left, top, width, height };
}

/** To a pixel, for what numbers with fractions leave over. */
function contains(outer: Part, inner: Part): boolean {
  return (
    outer.left <= inner.left + 1 &&
    outer.top <= inner.top + 1 &&
    outer.left + outer.width >= inner.left + inner.width - 1 &&
    outer.top + outer.height >= inner.top + inner.height - 1
  );
}
