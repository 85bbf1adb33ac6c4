/** How the pictures of a group share the stage. Lengths are CSS pixels. */

import type { Size } from "../../pictures/zoom";

export interface Tile extends Size {
  left: number;
  top: number;
}

/** Left free between pictures, and under each for its strip. */
export const GAP = 8;
export const STRIP = 28;
/** More pictures at once are too many to compare, narrower ones too small. */
export const MOST = 12;
export const USEFUL_WIDTH = 230;
/** How much more room pictures of different heights must have than pictures of one height to be worth it. */
const EASE = 1.15;

/** What was found before: a dozen pictures can be broken into rows in two thousand ways, and the same few shapes come
 * again and again. */
const known = new Map<string, Tile[]>();
const KNOWN = 100;

/** Rectangles for pictures of the given shapes (width over height), in their order: the rows that give them
 * the most room. Growing one picture counts less than growing a small one. */
export function tiled(ratios: number[], stage: Size): Tile[] {
  const key = `${ratios.join(" ")} in ${stage.width} ${stage.height}`;
  let tiles = known.get(key);
  if (!tiles) {
    tiles = bestTiles(ratios, stage);
    if (known.size >= KNOWN) known.clear();
    known.set(key, tiles);
  }
  return tiles;
}

function bestTiles(ratios: number[], stage: Size): Tile[] {
  if (!ratios.length || stage.width <= 0 || stage.height <= STRIP) return [];
  let best: { worth: number; rows: number[][]; heights: number[] } | null = null;
  // Every way to break the pictures into rows: a bit for each place where one may break. Late breaks, and with them
  // long first rows, come first.
  for (let breaks = (1 << (ratios.length - 1)) - 1; breaks >= 0; breaks--) {
    const rows: number[][] = [[]];
    ratios.forEach((ratio, at) => {
      if (at > 0 && (breaks >> (at - 1)) & 1) rows.push([]);
      rows.at(-1)?.push(ratio);
    });
    const heights = rows.map((row) => (stage.width - GAP * (row.length - 1)) / sum(row));
    const left = stage.height - rows.length * STRIP - (rows.length - 1) * GAP;
    if (left <= 0) continue;
    // Rows as wide as the stage, or rows of one height: the same size is easier to compare, and is left only where
    // the other gains a lot.
    const shrink = Math.min(1, left / sum(heights));
    const same = Math.min(...heights, left / rows.length);
    // Of ways that come to the same, the one without a picture alone in its row.
    const even = 1 - (Math.max(...heights) / Math.min(...heights) - 1) / 100;
    for (const [fitted, ease] of [
      [heights.map(() => same), EASE],
      [heights.map((height) => height * shrink), 1],
    ] as const) {
      const worth = even * ease * sum(rows.map((row, at) => (fitted[at] ?? 0) * sum(row.map(Math.sqrt))));
      if (!best || worth > best.worth * 1.001) best = { worth, rows, heights: fitted };
    }
  }
  return best ? laid(best.rows, best.heights, stage) : [];
}

function laid(rows: number[][], heights: number[], stage: Size): Tile[] {
  const used = sum(heights) + rows.length * STRIP + (rows.length - 1) * GAP;
  let top = Math.max(0, (stage.height - used) / 2);
  return rows.flatMap((row, at) => {
    const height = heights[at] ?? 0;
    let left = (stage.width - height * sum(row) - GAP * (row.length - 1)) / 2;
    const tiles = row.map((ratio) => {
      const tile = { left: Math.round(left), top: Math.round(top), width: height * ratio, height };
      left += tile.width + GAP;
      return { ...tile, width: Math.floor(tile.width), height: Math.floor(tile.height) };
    });
    top += height + STRIP + GAP;
    return tiles;
  });
}

/** Rectangles for windows on so many pictures, where each shows a part of its picture: they take the whole stage,
 * in the rows that leave the narrowest side of a window widest. */
export function windows(count: number, stage: Size): Tile[] {
  let best: Tile[] = [];
  let least = -1;
  for (let rows = 1; rows <= count; rows++) {
    const tiles = inRows(count, rows, stage);
    const narrowest = Math.min(...tiles.map((tile) => Math.min(tile.width, tile.height)));
    if (narrowest > least) [best, least] = [tiles, narrowest];
  }
  return best;
}

/** Longer rows first; all windows of a row are equally wide. */
function inRows(count: number, rows: number, stage: Size): Tile[] {
  const height = Math.floor((stage.height - rows * STRIP - (rows - 1) * GAP) / rows);
  return Array.from({ length: rows }, (_, row) => {
    const across = Math.floor(count / rows) + (row < count % rows ? 1 : 0);
    const width = Math.floor((stage.width - GAP * (across - 1)) / across);
    return Array.from({ length: across }, (_, at) => ({
      left: at * (width + GAP),
      top: row * (height + STRIP + GAP),
      width: Math.max(1, width),
      height: Math.max(1, height),
    }));
  }).flat();
}

/** How many pictures of a group stand on the stage at once: all, or runs of about equal length. */
export function runLength(ratios: number[], stage: Size): number {
  for (let runs = 1; runs <= ratios.length; runs++) {
    const length = Math.ceil(ratios.length / runs);
    if (length > MOST) continue;
    const tiles = tiled(ratios.slice(0, length), stage);
    if (length <= 2 || tiles.every((tile) => Math.max(tile.width, tile.height) >= USEFUL_WIDTH))
      return length;
  }
  return 1;
}

function sum(values: number[]): number {
  return values.reduce((total, value) => total + value, 0);
}
