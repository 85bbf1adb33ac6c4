/** Fetches and decodes pictures away from the page, so that keys are answered while it works. */

import type { Answer, CropJob, Job, OverlayJob, WholeJob } from "./decoding";
import { toOverlay } from "./overlays";
import type { Size } from "./zoom";

interface Rect extends Size {
  left: number;
  top: number;
}

/** A preview that squares are cut from is kept this long for the next of them. */
const KEPT_MS = 1500;

const previews = new Map<string, Promise<ImageBitmap>>();

self.onmessage = async ({ data }: MessageEvent<Job>) => {
  try {
    const bitmap = await work(data);
    self.postMessage({ id: data.id, bitmap } satisfies Answer, { transfer: [bitmap] });
  } catch (error) {
    self.postMessage({ id: data.id, problem: String(error) } satisfies Answer);
  }
};

function work(job: Job): Promise<ImageBitmap> | ImageBitmap {
  if (job.kind === "crop") return cut(job);
  return job.kind === "overlay" ? overlay(job) : whole(job);
}

function overlay({ bitmap, wanted }: OverlayJob): ImageBitmap {
  const canvas = new OffscreenCanvas(bitmap.width, bitmap.height);
  const context = canvas.getContext("2d", { willReadFrequently: true });
  if (!context) throw new Error("There is no canvas.");
  context.drawImage(bitmap, 0, 0);
  bitmap.close();
  const pixels = context.getImageData(0, 0, canvas.width, canvas.height);
  toOverlay(pixels, wanted);
  context.putImageData(pixels, 0, 0);
  return canvas.transferToImageBitmap();
}

async function whole({ url, how }: Pick<WholeJob, "url" | "how">): Promise<ImageBitmap> {
  const answer = await fetch(url, { priority: "high", cache: "no-store" });
  if (!answer.ok) throw new Error(`${url}: ${answer.status}`);
  const blob = await answer.blob();
  const { size, part, quality = "high" } = how;
  if (part) {
    const { left, top, width, height } = part;
    // Drawing it takes longer.
    if (!answer.headers.has("Winnow-Orientation")) return createImageBitmap(blob, left, top, width, height);
    return cutOut(await createImageBitmap(blob), { left, top, width, height }, { width, height }, true);
  }
  if (!size) return createImageBitmap(blob);
  const { width, height } = size;
  return createImageBitmap(blob, { resizeWidth: width, resizeHeight: height, resizeQuality: quality });
}

async function cut({ url, left, top, side, of, wanted }: CropJob): Promise<ImageBitmap> {
  const preview = await previewOf(url);
  const scale = preview.width / of;
  const reach = Math.max(1, Math.round(side * scale));
  const square = {
    left: Math.round(left * scale),
    top: Math.round(top * scale),
    width: reach,
    height: reach,
  };
  return cutOut(preview, square, { width: wanted, height: wanted }, false);
}

/** A part of a picture at a size. It is drawn: cut by `createImageBitmap`, a picture whose file says that it lies on its
 * side is cut as if it did not. `isDone`: the picture is not needed any more. */
function cutOut(picture: ImageBitmap, part: Rect, { width, height }: Size, isDone: boolean): ImageBitmap {
  const canvas = new OffscreenCanvas(width, height);
  // The name of this worker is the gamut of the page's canvases.
  const context = canvas.getContext("2d", { colorSpace: self.name as PredefinedColorSpace });
  if (!context) throw new Error("There is no canvas.");
  context.imageSmoothingQuality = "high";
  context.drawImage(picture, part.left, part.top, part.width, part.height, 0, 0, width, height);
  if (isDone) picture.close();
  return canvas.transferToImageBitmap();
}

function previewOf(url: string): Promise<ImageBitmap> {
  const known = previews.get(url);
  if (known) return known;
  const made = whole({ url, how: {} });
  previews.set(url, made);
  const forget = () => {
    previews.delete(url);
    made.then((bitmap) => bitmap.close()).catch(() => undefined);
  };
  made.then(() => setTimeout(forget, KEPT_MS)).catch(forget);
  return made;
}
