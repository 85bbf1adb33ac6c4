/** Decoded pictures, made ahead: the next frame is drawn from memory, never waited for. */

import { type Frame, pictureUrl, THUMBNAIL_STAGE } from "../api/client";

/** How good a bitmap is, worst first. `fit`: the preview at the size of the stage. */
export type Quality = "small" | "fit" | "preview" | "full";

const ORDER: Quality[] = ["small", "fit", "preview", "full"];
const KEPT: Record<Quality, number> = { small: 80, fit: 40, preview: 6, full: 3 };
const AT_ONCE = 3;

interface Wish {
  frame: Frame;
  quality: Quality;
  width: number;
  height: number;
}

export class Pictures {
  private bitmaps: Record<Quality, Map<string, ImageBitmap>> = {
    small: new Map(),
    fit: new Map(),
    preview: new Map(),
    full: new Map(),
  };
  private waiting: Wish[] = [];
  private loading = new Set<string>();
  private failed = new Set<string>();
  private stage = { width: 0, height: 0 };

  constructor(private arrived: (frameId: number, quality: Quality) => void) {}

  /** The size (device pixels) that `fit` bitmaps are made for. */
  resize(width: number, height: number) {
    if (width === this.stage.width && height === this.stage.height) return;
    this.stage = { width, height };
    for (const bitmap of this.bitmaps.fit.values()) bitmap.close();
    this.bitmaps.fit.clear();
  }

  /** The best bitmap there is of a frame, up to a quality. */
  best(frame: Frame, atMost: Quality): { bitmap: ImageBitmap; quality: Quality } | null {
    for (const quality of ORDER.slice(0, ORDER.indexOf(atMost) + 1).reverse()) {
      const bitmap = this.bitmaps[quality].get(frame.version);
      if (bitmap) return { bitmap, quality };
    }
    return null;
  }

  /** Replaces what is to be made ready: wishes in order of urgency. */
  want(wishes: { frame: Frame; quality: Quality }[]) {
    this.waiting = wishes
      .filter(({ frame, quality }) => !frame.problem && !this.has(frame, quality))
      .map((wish) => ({ ...wish, ...this.stage }));
    // What is wanted now is used last and therefore kept.
    for (const { frame, quality } of [...wishes].reverse()) this.touch(frame.version, quality);
    this.next();
  }

  clear() {
    this.waiting = [];
    for (const map of Object.values(this.bitmaps)) {
      for (const bitmap of map.values()) bitmap.close();
      map.clear();
    }
  }

  private has(frame: Frame, quality: Quality): boolean {
    const key = `${quality} ${frame.version}`;
    return this.bitmaps[quality].has(frame.version) || this.loading.has(key) || this.failed.has(key);
  }

  private touch(version: string, quality: Quality) {
    const map = this.bitmaps[quality];
    const bitmap = map.get(version);
    if (!bitmap) return;
    map.delete(version);
    map.set(version, bitmap);
  }

  private next() {
    while (this.loading.size < AT_ONCE) {
      const wish = this.waiting.shift();
      if (!wish) return;
      void this.load(wish);
    }
  }

  private async load(wish: Wish) {
    const { frame, quality } = wish;
    const key = `${quality} ${frame.version}`;
    this.loading.add(key);
    try {
      const bitmap = await decode(wish);
      if (quality === "fit" && (wish.width !== this.stage.width || wish.height !== this.stage.height)) {
        bitmap.close();
      } else {
        this.keep(frame.version, quality, bitmap);
        this.arrived(frame.id, quality);
      }
    } catch {
      // A glimpse may fail before the preview is there; the better qualities tell of real problems.
      if (quality !== "small") this.failed.add(key);
    } finally {
      this.loading.delete(key);
      this.next();
    }
  }

  private keep(version: string, quality: Quality, bitmap: ImageBitmap) {
    const map = this.bitmaps[quality];
    map.get(version)?.close();
    map.set(version, bitmap);
    for (const [old, stale] of map) {
      if (map.size <= KEPT[quality]) break;
      stale.close();
      map.delete(old);
    }
  }
}

async function decode({ frame, quality, width, height }: Wish): Promise<ImageBitmap> {
  const kind = quality === "fit" ? "preview" : quality;
  const url = pictureUrl(
    frame,
    kind === "small" ? (frame.stage >= THUMBNAIL_STAGE ? "thumb" : "glimpse") : kind,
  );
  const answer = await fetch(url);
  if (!answer.ok) throw new Error(`${url}: ${answer.status}`);
  const blob = await answer.blob();
  if (quality !== "fit" || !frame.width || !frame.height) return createImageBitmap(blob);
  const scale = Math.min(width / frame.width, height / frame.height);
  return createImageBitmap(blob, {
    resizeWidth: Math.max(1, Math.round(frame.width * scale)),
    resizeHeight: Math.max(1, Math.round(frame.height * scale)),
    resizeQuality: "high",
  });
}
