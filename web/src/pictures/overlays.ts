/** What is drawn over a picture from its own pixels on screen: edges in focus, clipped tones. */

import type { Placement, Size } from "./zoom";

/** Edges steeper than this, grey levels a pixel of the screen, are lit. */
const PEAK = 26;
/** From here on, up to here, a channel holds no detail; as the exposure is measured. */
const BURNT = 254;
const BLOCKED = 2;

/** Tints the pixels of a picture on a canvas where edges peak: the second difference, so that soft slopes stay dark. */
export function drawPeaking(context: CanvasRenderingContext2D, lies: Placement, cell: Size) {
  onPixels(context, lies, cell, ({ data, width, height }) => {
    const luma = new Uint8Array(width * height);
    for (let i = 0, p = 0; i < luma.length; i++, p += 4)
      luma[i] = ((data[p] ?? 0) * 54 + (data[p + 1] ?? 0) * 183 + (data[p + 2] ?? 0) * 19) >> 8;
    for (let y = 1; y < height - 1; y++) {
      for (let x = 1; x < width - 1; x++) {
        const at = y * width + x;
        const here = 2 * (luma[at] ?? 0);
        const across = Math.abs(here - (luma[at - 1] ?? 0) - (luma[at + 1] ?? 0));
        const down = Math.abs(here - (luma[at - width] ?? 0) - (luma[at + width] ?? 0));
        if (across + down < PEAK) continue;
        data[4 * at] = 230;
        data[4 * at + 1] = 195;
        data[4 * at + 2] = 92;
      }
    }
  });
}

/** Hatches what is burnt (dark lines on it) and blocked (light lines on it). */
export function drawClipping(context: CanvasRenderingContext2D, lies: Placement, cell: Size) {
  onPixels(context, lies, cell, ({ data, width, height }) => {
    for (let y = 0; y < height; y++) {
      for (let x = 0; x < width; x++) {
        const p = 4 * (y * width + x);
        const [r, g, b] = [data[p] ?? 0, data[p + 1] ?? 0, data[p + 2] ?? 0];
        const burnt = r >= BURNT || g >= BURNT || b >= BURNT;
        const blocked = r <= BLOCKED && g <= BLOCKED && b <= BLOCKED;
        if (!burnt && !blocked) continue;
        const line = (burnt ? x + y : x - y + height) % 6 < 2;
        const grey = burnt ? (line ? 20 : 255) : line ? 235 : 0;
        data[p] = data[p + 1] = data[p + 2] = grey;
      }
    }
  });
}

/** Changes the pixels of the part of a picture that lies in its cell. */
function onPixels(
  context: CanvasRenderingContext2D,
  lies: Placement,
  cell: Size,
  change: (image: ImageData) => void,
) {
  const left = Math.max(0, Math.round(lies.left));
  const top = Math.max(0, Math.round(lies.top));
  const width = Math.min(cell.width, Math.round(lies.left + lies.width)) - left;
  const height = Math.min(cell.height, Math.round(lies.top + lies.height)) - top;
  if (width <= 2 || height <= 2) return;
  const image = context.getImageData(left, top, width, height);
  change(image);
  context.putImageData(image, left, top);
}
