/** Pictures decoded by workers: an order goes out, a bitmap comes back. */

import { GAMUT } from "./gamut";
import type { Wanted } from "./overlays";
import type { Part, Size } from "./zoom";

export interface WholeJob {
  id: number;
  kind: "whole";
  url: string;
  how: How;
}

export interface How {
  /** Reduced to this; as large as it is without. */
  size?: Size;
  quality?: ResizeQuality;
  /** Only this of it, px. */
  part?: Part;
}

export interface CropJob {
  id: number;
  kind: "crop";
  url: string;
  /** A square of the picture, px of one that is `of` px wide, and the side of the bitmap that is wanted. */
  left: number;
  top: number;
  side: number;
  of: number;
  wanted: number;
}

/** What lies over a bitmap, made of its pixels. The bitmap goes along. */
export interface OverlayJob {
  id: number;
  kind: "overlay";
  bitmap: ImageBitmap;
  wanted: Wanted;
}

export type Job = WholeJob | CropJob | OverlayJob;

export interface Answer {
  id: number;
  bitmap?: ImageBitmap;
  problem?: string;
}

interface Waiting {
  resolve: (bitmap: ImageBitmap) => void;
  reject: (error: Error) => void;
}

const waiting = new Map<number, Waiting>();
let workers: Worker[] = [];
let count = 0;

function worker(number: number): Worker {
  if (!workers.length) {
    workers = [0, 1].map(() => {
      const made = new Worker(new URL("./decoder.worker.ts", import.meta.url), {
        type: "module",
        name: GAMUT,
      });
      made.onmessage = ({ data }: MessageEvent<Answer>) => {
        const order = waiting.get(data.id);
        waiting.delete(data.id);
        if (data.bitmap) order?.resolve(data.bitmap);
        else order?.reject(new Error(data.problem));
      };
      return made;
    });
  }
  return workers[number % workers.length] as Worker;
}

function send(job: Job, to: number): Promise<ImageBitmap> {
  return new Promise((resolve, reject) => {
    waiting.set(job.id, { resolve, reject });
    worker(to).postMessage(job, job.kind === "overlay" ? [job.bitmap] : []);
  });
}

/** A picture as a bitmap. */
export function decodeWhole(url: string, how: How = {}): Promise<ImageBitmap> {
  const id = count++;
  return send({ id, kind: "whole", url, how }, id);
}

/** What lies over a bitmap, which is given away. */
export function decodeOverlay(bitmap: ImageBitmap, wanted: Wanted): Promise<ImageBitmap> {
  const id = count++;
  return send({ id, kind: "overlay", bitmap, wanted }, id);
}

/** A square cut out of a picture. Squares of one picture go to one worker, which decodes it once. */
export function decodeCrop(url: string, square: Omit<CropJob, "id" | "kind" | "url">): Promise<ImageBitmap> {
  const id = count++;
  return send(
    { id, kind: "crop", url, ...square },
    url.length + (url.match(/\d+/g)?.reduce((n, d) => n + (Number(d) % 97), 0) ?? 0),
  );
}
