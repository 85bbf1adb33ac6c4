/** Decoded pictures, made ahead: the next group is drawn from memory, never waited for. */

import {
  type Frame,
  hasThumbnail,
  type PictureKind,
  pictureUrl,
  smallUrl,
  THUMBNAIL_EDGE,
} from "../api/client";
import { onReconnect } from "../api/events";
import { afterPaint } from "../ui/timing";
import { Bitmaps, type Kept } from "./bitmaps";
import { decodeWhole } from "./decoding";
import { longEdge, MEDIUM_EDGE, type Part, type Size, sizeOf as wholeSize } from "./zoom";

/** How good a bitmap is, worst first. `first`: the camera's own preview, as large as it is, for reducing it takes longer
 * than decoding it; `fit`: ours, at the size (device px) that it is shown at. */
export type Quality = "small" | "first" | "fit" | "preview" | "full";

const ORDER: Quality[] = ["small", "first", "fit", "preview", "full"];
/** Memory for decoded pictures, bytes: six of 24 megapixels at full size and what surrounds them. */
export const SPACE: Record<Quality, number> = {
  small: 30e6,
  first: 80e6,
  fit: 60e6,
  preview: 110e6,
  full: 260e6,
};
const AT_ONCE = 3;
const PREVIEW_EDGE = 2560;
/** What a picture for the stage is reduced from, and its long edge, px: the smallest that is large enough is decoded far
 * sooner, and from one that is hardly larger the simplest way to reduce is as good. */
const SOURCES: [PictureKind, number][] = [
  ["thumb", THUMBNAIL_EDGE],
  ["medium", MEDIUM_EDGE],
];
/** First looks have a line of their own: they take a tenth of the time of what they stand for. */
const FIRST_AT_ONCE = 3;
/** Of these, full-size pictures: the next group must not wait for them. */
const FULL_AT_ONCE = 2;

export interface Wish {
  frame: Frame;
  quality: Quality;
  /** For `fit`. */
  size?: Size;
  /** Only where there is no `first` look to be had, which comes far sooner. */
  withoutFirst?: boolean;
  /** Waited for by the person: nothing else is begun until it is there. */
  now?: boolean;
  /** Of `full`: only this of it, where all of the stage would take more memory than there is for it. */
  part?: Part;
}

export interface Best {
  bitmap: ImageBitmap;
  quality: Quality;
  /** Made for this very size: can be copied pixel for pixel. */
  exact: boolean;
  /** What it is of, where it is not of all of the frame. */
  part?: Part;
}

type Listener = (frameId: number, quality: Quality) => void;

function sizeOf(size: Size | undefined): string {
  return size ? `${size.width}×${size.height}` : "";
}

export class Pictures {
  private kept: Record<Quality, Bitmaps> = {
    small: new Bitmaps(SPACE.small),
    first: new Bitmaps(SPACE.first),
    fit: new Bitmaps(SPACE.fit),
    preview: new Bitmaps(SPACE.preview),
    full: new Bitmaps(SPACE.full),
  };
  private wishes: Wish[] = [];
  private waiting: Wish[] = [];
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
      const kept = this.kept[quality].get(keyOf({ frame, quality, size })) ?? this.other(frame, quality);
      if (kept) return { bitmap: kept.bitmap, quality, exact: kept.size === sizeOf(size), part: kept.part };
    }
    return null;
  }

  /** All true pixels of a frame, for a size that the preview would have to be blown up for; null where they are not
   * there or not needed. */
  finer(frame: Frame, size: Size): Best | null {
    const kept = longEdge(size) > PREVIEW_EDGE ? this.kept.full.get(frame.version) : undefined;
    return kept && !kept.part ? { bitmap: kept.bitmap, quality: "full", exact: false } : null;
  }

  /** Whether the true pixels of a frame are there. */
  holds(frame: Frame): boolean {
    return this.kept.full.has(frame.version) || this.other(frame, "full") !== undefined;
  }

  /** One of another size, or a part. */
  private other(frame: Frame, quality: Quality): Kept | undefined {
    if (quality !== "fit" && quality !== "full") return undefined;
    let widest: Kept | undefined;
    for (const kept of this.kept[quality].values())
      if (kept.version === frame.version && kept.bitmap.width > (widest?.bitmap.width ?? 0)) widest = kept;
    return widest;
  }

  /** Replaces what is to be made ready: wishes in order of urgency. */
  want(wishes: Wish[]) {
    this.wishes = wishes;
    for (const quality of ORDER) {
      const keys = wishes.filter((wish) => wish.quality === quality);
      this.kept[quality].want(new Set(keys.map(keyOf)));
    }
    this.waiting = wishes.filter(
      (wish) => !wish.frame.problem && !this.has(wish) && (!wish.withoutFirst || this.hasNoFirst(wish.frame)),
    );
    // Stand-ins of a zoom that is over.
    if (!wishes.some((wish) => wish.quality === "preview")) this.kept.preview.clear();
    this.next();
  }

  /** What failed while the server was away is worth another try. */
  tryAgain() {
    this.failed.clear();
    this.want(this.wishes);
  }

  private hasNoFirst(frame: Frame): boolean {
    if (this.failed.has(`first ${frame.version}`)) return true;
    return frame.stage === "preview" && !this.has({ frame, quality: "first" });
  }

  private has(wish: Wish): boolean {
    const key = `${wish.quality} ${keyOf(wish)}`;
    return this.kept[wish.quality].has(keyOf(wish)) || this.loading.has(key) || this.failed.has(key);
  }

  private next() {
    const isWaitedFor = this.wishes.some(
      (wish) => wish.now && this.loading.has(`${wish.quality} ${keyOf(wish)}`),
    );
    if (isWaitedFor) return;
    for (;;) {
      const at = this.waiting.findIndex(({ quality }) => this.hasRoom(quality));
      const wish = this.waiting[at];
      if (!wish) return;
      this.waiting.splice(at, 1);
      if (wish.quality === "full") this.makeSpace(wish);
      void this.load(wish);
      if (wish.now) return;
    }
  }

  private hasRoom(quality: Quality): boolean {
    const count = (of: Quality) => [...this.loading].filter((key) => key.startsWith(`${of} `)).length;
    const first = count("first");
    if (quality === "first") return first < FIRST_AT_ONCE;
    return this.loading.size - first < AT_ONCE && (quality !== "full" || count("full") < FULL_AT_ONCE);
  }

  /** Full-size pictures are let go of before the next one is made, not after: each is as large as all the rest. */
  private makeSpace({ frame, part }: Wish) {
    const { width, height } = part ?? { width: frame.width ?? 0, height: frame.height ?? 0 };
    this.kept.full.makeSpace(4 * width * height * FULL_AT_ONCE);
  }

  private async load(wish: Wish) {
    const { frame, quality, size, part } = wish;
    const key = `${quality} ${keyOf(wish)}`;
    this.loading.add(key);
    try {
      const bitmap = await decode(wish);
      const madeFor = quality === "fit" ? sizeOf(size) : "";
      this.kept[quality].put(keyOf(wish), { bitmap, version: frame.version, size: madeFor, part });
      for (const listener of this.listeners) listener(frame.id, quality);
    } catch {
      // A glimpse may fail before the preview is there; a file without a preview of the camera has none the next time.
      if (quality !== "small") this.failed.add(key);
      if (quality === "first") this.want(this.wishes);
    } finally {
      this.loading.delete(key);
      // To decode the next ones would keep the processor from painting this one.
      if (wish.now) afterPaint(() => this.next());
      else this.next();
    }
  }
}

/** All pictures of the page. */
export const pictures = new Pictures();
onReconnect(() => pictures.tryAgain());

function keyOf({ frame, quality, size, part }: Pick<Wish, "frame" | "quality" | "size" | "part">): string {
  if (quality === "fit") return `${frame.version} ${sizeOf(size)}`;
  return part ? `${frame.version} ${part.left},${part.top} ${sizeOf(part)}` : frame.version;
}

function decode({ frame, quality, size = wholeSize(frame), part }: Wish): Promise<ImageBitmap> {
  if (quality === "small") return decodeWhole(smallUrl(frame));
  if (quality !== "fit") return decodeWhole(pictureUrl(frame, quality), { part });
  const [kind, edge] = sourceFor(frame, size);
  const isNear = edge < PREVIEW_EDGE && longEdge(size) >= edge / 2;
  return decodeWhole(pictureUrl(frame, kind), { size, quality: isNear ? "low" : "high" });
}

/** A picture that is small itself is as soon decoded from its preview. */
function sourceFor(frame: Frame, size: Size): [PictureKind, number] {
  const isSmall = frame.width !== null && longEdge(wholeSize(frame)) <= MEDIUM_EDGE;
  const found = SOURCES.find(
    ([kind, edge]) => longEdge(size) <= edge && (kind !== "thumb" || hasThumbnail(frame)),
  );
  return (!isSmall && found) || ["preview", PREVIEW_EDGE];
}
