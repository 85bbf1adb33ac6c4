/** What is drawn over a picture from its own pixels: edges in focus, clipped tones. */

export interface Pixels {
  data: Uint8ClampedArray;
  width: number;
  height: number;
}

export interface Wanted {
  peaking: boolean;
  clipping: boolean;
}

/** Edges steeper than this, grey levels a pixel of the screen, are lit. */
const PEAK = 26;
/** From here on, up to here, a channel holds no detail; as the exposure is measured. */
const BURNT = 254;
const BLOCKED = 2;

/** Turns pixels of a picture into what lies over them; all else becomes transparent. */
export function toOverlay(pixels: Pixels, { peaking, clipping }: Wanted) {
  const { data, width, height } = pixels;
  const over = new Uint8ClampedArray(data.length);
  if (peaking) peak(pixels, over);
  if (clipping) hatch(pixels, over);
  for (let i = 0; i < width * height * 4; i++) data[i] = over[i] ?? 0;
}

/** Lights edges that peak: the second difference, so that soft slopes stay dark. */
function peak({ data, width, height }: Pixels, over: Uint8ClampedArray) {
  const luma = new Uint8Array(width * height);
  for (let i = 0, p = 0; i < luma.length; i++, p += 4)
    luma[i] = ((data[p] ?? 0) * 54 + (data[p + 1] ?? 0) * 183 + (data[p + 2] ?? 0) * 19) >> 8;
  for (let y = 1; y < height - 1; y++) {
    for (let x = 1; x < width - 1; x++) {
      const at = y * width + x;
      const here = 2 * (luma[at] ?? 0);
      const across = Math.abs(here - (luma[at - 1] ?? 0) - (luma[at + 1] ?? 0));
      const down = Math.abs(here - (luma[at - width] ?? 0) - (luma[at + width] ?? 0));
      if (across + down >= PEAK) put(over, at, 230, 195, 92);
    }
  }
}

/** Hatches what is burnt (dark lines on it) and blocked (light lines on it). */
function hatch({ data, width, height }: Pixels, over: Uint8ClampedArray) {
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      const at = y * width + x;
      const [r, g, b] = [data[4 * at] ?? 0, data[4 * at + 1] ?? 0, data[4 * at + 2] ?? 0];
      const burnt = r >= BURNT || g >= BURNT || b >= BURNT;
      const blocked = r <= BLOCKED && g <= BLOCKED && b <= BLOCKED;
      if (!burnt && !blocked) continue;
      const line = (burnt ? x + y : x - y + height) % 6 < 2;
      const grey = burnt ? (line ? 20 : 255) : line ? 235 : 0;
      put(over, at, grey, grey, grey);
    }
  }
}

function put(over: Uint8ClampedArray, at: number, r: number, g: number, b: number) {
  over[4 * at] = r;
  over[4 * at + 1] = g;
  over[4 * at + 2] = b;
  over[4 * at + 3] = 255;
}
