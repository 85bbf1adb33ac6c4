/** Decoded pictures, made ahead: the next group is drawn from memory, never waited for. */

import { type Frame, hasThumbnail, pictureUrl } from "../api/client";
import { decodeWhole } from "./decoding";
import type { Size } from "./zoom";

/** How good a bitmap is, worst first. `fit`: the preview at the size (device px) that it is shown at. */
export type Quality = "small" | "fit" | "preview" | "full";

const ORDER: Quality[] = ["small", "fit", "preview", "full"];
/** Memory for decoded pictures, bytes: six of 24 megapixels at full size and what surrounds them. */
const ROOM: Record<Quality, number> = { small: 30e6, fit: 60e6, preview: 110e6, full: 580e6 };
/** A picture of any size is kept while it is on the stage. */
const LEAST = 2;
const AT_ONCE = 3;
/** Of these, full-size pictures: the next group must not wait for them. */
const FULL_AT_ONCE = 2;

export interface Wish {
  frame: Frame;
  quality: Quality;
  /** For `fit`. */
  size?: Size;
}

interface Kept {
  bitmap: ImageBitmap;
  version: string;
  size: string;
}

export interface Best {
  bitmap: ImageBitmap;
  quality: Quality;
  /** Made for this very size: can be copied pixel for pixel. */
  exact: boolean;
}

type Listener = (frameId: number, quality: Quality) => void;

function sizeOf(size: Size | undefined): string {
  return size ? `${size.width}×${size.height}` : "";
}

export class Pictures {
  private kept: Record<Quality, Map<string, Kept>> = {
    small: new Map(),
    fit: new Map(),
    preview: new Map(),
    full: new Map(),
  };
  private waiting: Wish[] = [];
  private wanted = new Set<string>();
  private loading = new Set<string>();
  private failed = new Set<string>();
  private listeners = new Set<Listener>();

  /** Calls back when a bitmap arrives. Returns what ends that. */
  listen(listener: Listener): () => void {
    this.listeners.add(listener);
    return () => {
      this.listeners.delete(listener);
    };
  }

  /** The best bitmap there is of a frame for a size, up to a quality. */
  best(frame: Frame, size: Size, atMost: Quality): Best | null {
    for (const quality of ORDER.slice(0, ORDER.indexOf(atMost) + 1).reverse()) {
      const kept = this.kept[quality].get(keyOf(frame, quality, size)) ?? this.otherSize(frame, quality);
      if (kept) return { bitmap: kept.bitmap, quality, exact: kept.size === sizeOf(size) };
    }
    return null;
  }

  /** Whether the true pixels of a frame are there. */
  holds(frame: Frame): boolean {
    return this.kept.full.has(keyOf(frame, "full", undefined));
  }

  private otherSize(frame: Frame, quality: Quality): Kept | undefined {
    if (quality !== "fit") return undefined;
    let widest: Kept | undefined;
    for (const kept of this.kept.fit.values())
      if (kept.version === frame.version && kept.bitmap.width > (widest?.bitmap.width ?? 0)) widest = kept;
    return widest;
  }

  /** Replaces what is to be made ready: wishes in order of urgency. */
  want(wishes: Wish[]) {
    this.wanted = new Set(wishes.map((w) => `${w.quality} ${keyOf(w.frame, w.quality, w.size)}`));
    this.waiting = wishes.filter((wish) => !wish.frame.problem && !this.has(wish));
    // What is wanted now is used last and therefore kept.
    for (const wish of [...wishes].reverse()) this.touch(wish);
    // Stand-ins of a zoom that is over.
    if (!wishes.some((wish) => wish.quality === "preview")) this.trim("preview", 0, 0);
    this.next();
  }

  private has(wish: Wish): boolean {
    const key = `${wish.quality} ${keyOf(wish.frame, wish.quality, wish.size)}`;
    return (
      this.kept[wish.quality].has(keyOf(wish.frame, wish.quality, wish.size)) ||
      this.loading.has(key) ||
      this.failed.has(key)
    );
  }

  private touch(wish: Wish) {
    const map = this.kept[wish.quality];
    const key = keyOf(wish.frame, wish.quality, wish.size);
    const kept = map.get(key);
    if (!kept) return;
    map.delete(key);
    map.set(key, kept);
  }

  private next() {
    while (this.loading.size < AT_ONCE) {
      const full = [...this.loading].filter((key) => key.startsWith("full")).length;
      const at = this.waiting.findIndex((wish) => wish.quality !== "full" || full < FULL_AT_ONCE);
      const wish = this.waiting[at];
      if (!wish) return;
      this.waiting.splice(at, 1);
      if (wish.quality === "full") this.makeRoom(wish);
      void this.load(wish);
    }
  }

  /** Full-size pictures are let go of before the next one is made, not after: each is as large as all the rest. */
  private makeRoom({ frame }: Wish) {
    const bytes = 4 * (frame.width ?? 0) * (frame.height ?? 0) * FULL_AT_ONCE;
    this.trim("full", ROOM.full - bytes);
  }

  private async load(wish: Wish) {
    const { frame, quality, size } = wish;
    const key = `${quality} ${keyOf(frame, quality, size)}`;
    this.loading.add(key);
    try {
      const bitmap = await decode(wish);
      this.keep(keyOf(frame, quality, size), quality, {
        bitmap,
        version: frame.version,
        size: quality === "fit" ? sizeOf(size) : "",
      });
      for (const listener of this.listeners) listener(frame.id, quality);
    } catch {
      // A glimpse may fail before the preview is there; the better qualities tell of real problems.
      if (quality !== "small") this.failed.add(key);
    } finally {
      this.loading.delete(key);
      this.next();
    }
  }

  private keep(key: string, quality: Quality, kept: Kept) {
    const map = this.kept[quality];
    map.get(key)?.bitmap.close();
    map.set(key, kept);
    this.trim(quality, ROOM[quality]);
  }

  /** Lets go of what was used longest ago, and is not wanted now, until the rest takes no more than so many bytes. */
  private trim(quality: Quality, room: number, least = LEAST) {
    const map = this.kept[quality];
    let bytes = 0;
    for (const { bitmap } of map.values()) bytes += bitmap.width * bitmap.height * 4;
    for (const [old, { bitmap }] of map) {
      if (bytes <= room || map.size <= least) break;
      if (this.wanted.has(`${quality} ${old}`)) continue;
      bytes -= bitmap.width * bitmap.height * 4;
      bitmap.close();
      map.delete(old);
    }
  }
}

/** All pictures of the page. */
export const pictures = new Pictures();

function keyOf(frame: Frame, quality: Quality, size: Size | undefined): string {
  return quality === "fit" ? `${frame.version} ${sizeOf(size)}` : frame.version;
}

function decode({ frame, quality, size }: Wish): Promise<ImageBitmap> {
  const kind = quality === "fit" ? "preview" : quality;
  const url = pictureUrl(frame, kind === "small" ? (hasThumbnail(frame) ? "thumb" : "glimpse") : kind);
  return decodeWhole(url, quality === "fit" ? size : undefined);
}
