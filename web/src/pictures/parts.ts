/** Which parts of full-size pictures are decoded where all of them together would take more memory than there is. */

import type { Point } from "./aim";
import type { Part, Size } from "./zoom";

const BYTES = 4;
/** Parts begin at multiples of this, px: while the pictures are moved about, few are made anew. */
const GRID = 512;

/** How much of a part lies around what is looked at, at least, before another part is made: a share of its sides. */
const AROUND = 0.2;

interface Looked {
  size: Size;
  /** What is looked at, px. */
  at: Point;
  /** The part that is there already. */
  had?: Part | undefined;
}

/** The part of each picture that is decoded; undefined where there is room for all of all of them. One that is there
 * already is kept as long as what is looked at lies well within it. space: bytes. */
export function partsWithin(space: number, pictures: Looked[]): (Part | undefined)[] {
  const all = pictures.reduce((sum, { size }) => sum + BYTES * size.width * size.height, 0);
  if (all <= space) return pictures.map(() => undefined);
  const share = Math.sqrt(space / all);
  return pictures.map(({ size, at, had }) => {
    const [width, height] = [Math.floor(size.width * share), Math.floor(size.height * share)];
    if (had?.width === width && had.height === height && liesWithin(at, had, size)) return had;
    return {
      left: start(at.x, width, size.width),
      top: start(at.y, height, size.height),
      width,
      height,
    };
  });
}

function start(at: number, length: number, of: number): number {
  const wanted = Math.round((at - length / 2) / GRID) * GRID;
  return Math.min(of - length, Math.max(0, wanted));
}

/** At the edge of the picture there is nothing more to be had. */
function liesWithin({ x, y }: Point, { left, top, width, height }: Part, size: Size): boolean {
  const inside = (at: number, start: number, length: number, of: number) =>
    (start === 0 || at >= start + AROUND * length) &&
    (start + length === of || at <= start + (1 - AROUND) * length);
  return inside(x, left, width, size.width) && inside(y, top, height, size.height);
}
