/** What is drawn over a picture from its own pixels on screen: edges in focus, clipped tones. */

/** Edges steeper than this, grey levels a pixel of the screen, are lit. */
const PEAK = 26;
/** From here on, up to here, a channel holds no detail; as the exposure is measured. */
const BURNT = 254;
const BLOCKED = 2;

/** Tints the pixels of a canvas where edges peak: the second difference, so that soft slopes stay dark. */
export function drawPeaking(
  context: CanvasRenderingContext2D,
  left: number,
  top: number,
  w: number,
  h: number,
) {
  const area = inside(context, left, top, w, h);
  if (!area) return;
  const image = context.getImageData(area.left, area.top, area.width, area.height);
  const { data, width, height } = image;
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
  context.putImageData(image, area.left, area.top);
}

/** Hatches what is burnt (dark lines on it) and blocked (light lines on it). */
export function drawClipping(
  context: CanvasRenderingContext2D,
  left: number,
  top: number,
  w: number,
  h: number,
) {
  const area = inside(context, left, top, w, h);
  if (!area) return;
  const image = context.getImageData(area.left, area.top, area.width, area.height);
  const { data, width, height } = image;
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
  context.putImageData(image, area.left, area.top);
}

function inside(context: CanvasRenderingContext2D, left: number, top: number, w: number, h: number) {
  const x0 = Math.max(0, Math.round(left));
  const y0 = Math.max(0, Math.round(top));
  const width = Math.min(context.canvas.width, Math.round(left + w)) - x0;
  const height = Math.min(context.canvas.height, Math.round(top + h)) - y0;
  return width > 2 && height > 2 ? { left: x0, top: y0, width, height } : null;
}
