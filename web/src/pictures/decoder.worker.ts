/** Fetches and decodes pictures away from the page, so that keys are answered while it works. */

import type { Answer, CropJob, Job } from "./decoding";

/** A preview that squares are cut from is kept this long for the next of them. */
const KEPT_MS = 1500;

const previews = new Map<string, Promise<ImageBitmap>>();

self.onmessage = async ({ data }: MessageEvent<Job>) => {
  try {
    const bitmap = data.kind === "crop" ? await cut(data) : await whole(data.url, data.width, data.height);
    self.postMessage({ id: data.id, bitmap } satisfies Answer, { transfer: [bitmap] });
  } catch (error) {
    self.postMessage({ id: data.id, problem: String(error) } satisfies Answer);
  }
};

async function whole(url: string, width?: number, height?: number): Promise<ImageBitmap> {
  const answer = await fetch(url, { priority: "high" });
  if (!answer.ok) throw new Error(`${url}: ${answer.status}`);
  const blob = await answer.blob();
  if (!width || !height) return createImageBitmap(blob);
  return createImageBitmap(blob, { resizeWidth: width, resizeHeight: height, resizeQuality: "high" });
}

async function cut({ url, left, top, side, of, wanted }: CropJob): Promise<ImageBitmap> {
  const preview = await previewOf(url);
  const scale = preview.width / of;
  return createImageBitmap(
    preview,
    Math.round(left * scale),
    Math.round(top * scale),
    Math.max(1, Math.round(side * scale)),
    Math.max(1, Math.round(side * scale)),
    { resizeWidth: wanted, resizeHeight: wanted, resizeQuality: "high" },
  );
}

function previewOf(url: string): Promise<ImageBitmap> {
  const known = previews.get(url);
  if (known) return known;
  const made = whole(url);
  previews.set(url, made);
  const forget = () => {
    previews.delete(url);
    made.then((bitmap) => bitmap.close()).catch(() => undefined);
  };
  made.then(() => setTimeout(forget, KEPT_MS)).catch(forget);
  return made;
}
