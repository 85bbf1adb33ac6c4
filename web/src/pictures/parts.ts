/** Which parts of full-size pictures are decoded where all of them together would take more memory than there is. */

import type { Point } from "./aim";
import type { Part, Size } from "./zoom";

const BYTES = 4;
/** Parts begin at multiples of this, px: while the pictures are moved about, few are made anew. */
const GRID = 512;

/** The part of each picture that is decoded; undefined where there is room for all of all of them. `at`: what is looked at
 * in each, px. Bounds are bytes. */
export function partsWithin(space: number, pictures: { size: Size; at: Point }[]): (Part | undefined)[] {
  const all = pictures.reduce((sum, { size }) => sum + BYTES * size.width * size.height, 0);
  if (all <= space) return pictures.map(() => undefined);
  const share = Math.sqrt(space / all);
  return pictures.map(({ size, at }) => {
    const [width, height] = [Math.floor(size.width * share), Math.floor(size.height * share)];
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
