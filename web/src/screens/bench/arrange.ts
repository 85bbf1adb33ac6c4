/** Which frames stand on the stage, and where. */

import type { Frame } from "../../api/client";
import { type Size, sizeOf } from "../../pictures/zoom";
import { compared, type Shoot } from "./compared";
import type { StageState } from "./stageStore";
import { runLength, STRIP, type Tile, tiled, windows } from "./tiling";

/** A frame on the stage: where its picture stands (CSS px) and the size of its canvas (device px). */
export interface Shown {
  frame: Frame;
  tile: Tile;
  size: Size;
}

export interface Arrangement {
  shown: Shown[];
  /** How many frames of a long group stand on the stage at once. */
  length: number;
}

type Standing = "layout" | "aside" | "keptOnly" | "holder" | "challenger" | "blink";

export interface Stage extends Pick<StageState, Standing> {
  chosen: number[] | null;
  zoomed: boolean;
  /** CSS px, and how many pixels of the display one of them is. */
  size: Size;
  ratio: number;
  /** Pictures only. */
  bare: boolean;
}

/** The active frame is always among those that are shown. */
export function arrange(shoot: Shoot, stage: Stage, active: number): Arrangement {
  const all = compared(shoot, stage, stage.chosen, active);
  const frame = (id: number | null) => (id === null ? undefined : shoot.frames.get(id));
  const strip = stage.bare ? 0 : STRIP;
  const tilesFor = (frames: Frame[]): Tile[] =>
    stage.zoomed ? windows(frames.length, stage.size) : tiled(frames.map(ratioOf), stage.size);
  const { width, height } = stage.size;
  const whole = { left: 0, top: 0, width, height: Math.max(1, height - strip) };
  const pair = [frame(stage.holder), frame(stage.challenger)].filter((f) => f !== undefined);
  if (stage.layout === "two" && pair.length === 2 && pair.some(({ id }) => id === active)) {
    const tiles = stage.blink ? pair.map(() => whole) : tilesFor(pair);
    return { shown: together(pair, tiles, stage.ratio), length: 2 };
  }
  const one = frame(active);
  if (stage.layout !== "group" || all.length < 2) {
    return { shown: one ? together([one], [whole], stage.ratio) : [], length: 1 };
  }
  const frames = all.map(frame).filter((f) => f !== undefined);
  const length = runLength(frames.map(ratioOf), stage.size);
  const run = Math.max(0, Math.floor(all.indexOf(active) / length));
  const here = frames.slice(run * length, (run + 1) * length);
  return { shown: together(here, tilesFor(here), stage.ratio), length };
}

function ratioOf(frame: Frame): number {
  const { width, height } = sizeOf(frame);
  return width / height;
}

function together(frames: Frame[], tiles: Tile[], ratio: number): Shown[] {
  return frames.flatMap((frame, at) => {
    const tile = tiles[at];
    if (!tile) return [];
    return [
      {
        frame,
        tile,
        size: { width: Math.round(tile.width * ratio), height: Math.round(tile.height * ratio) },
      },
    ];
  });
}
