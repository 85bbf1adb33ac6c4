/** Bitmaps kept in memory, up to so many bytes: those that are wanted now whatever they take, of the others the ones used
 * last. A bitmap that is let go of is closed: waiting for the browser to notice would hold hundreds of megabytes. */

import { LRUCache } from "lru-cache";
import type { Part } from "./zoom";

export interface Kept {
  bitmap: ImageBitmap;
  version: string;
  size: string;
  /** What it is of, where it is not of all of the picture. */
  part?: Part;
}

function bytesOf({ bitmap }: Kept): number {
  return Math.max(1, 4 * bitmap.width * bitmap.height);
}

export class Bitmaps {
  private wantedKeys = new Set<string>();
  private wanted = new Map<string, Kept>();
  private others: LRUCache<string, Kept>;

  constructor(private space: number) {
    this.others = new LRUCache<string, Kept>({
      maxSize: space,
      sizeCalculation: bytesOf,
      // Taken out to be wanted again, it is not let go of.
      dispose: ({ bitmap }, _, reason) => reason !== "delete" && bitmap.close(),
    });
  }

  get(key: string): Kept | undefined {
    return this.wanted.get(key) ?? this.others.peek(key);
  }

  has(key: string): boolean {
    return this.wanted.has(key) || this.others.has(key);
  }

  *values(): Iterable<Kept> {
    yield* this.wanted.values();
    yield* this.others.values();
  }

  put(key: string, kept: Kept) {
    if (this.wantedKeys.has(key)) {
      this.wanted.get(key)?.bitmap.close();
      this.wanted.set(key, kept);
    } else this.putAside(key, kept);
    this.makeSpace(0);
  }

  /** Says which are wanted from now on. */
  want(keys: Set<string>) {
    this.wantedKeys = keys;
    for (const [key, kept] of this.wanted) {
      if (keys.has(key)) continue;
      this.wanted.delete(key);
      this.putAside(key, kept);
    }
    for (const key of keys) {
      const kept = this.others.peek(key);
      if (!kept) continue;
      this.others.delete(key);
      this.wanted.set(key, kept);
    }
  }

  private putAside(key: string, kept: Kept) {
    if (bytesOf(kept) > this.space) kept.bitmap.close();
    else this.others.set(key, kept);
  }

  /** Lets go of others until so many bytes more can be taken. */
  makeSpace(bytes: number) {
    let taken = bytes;
    for (const kept of this.wanted.values()) taken += bytesOf(kept);
    while (this.others.size && taken + this.others.calculatedSize > this.space) this.others.pop();
  }

  /** Lets go of all that are not wanted. */
  clear() {
    while (this.others.size) this.others.pop();
  }
}
