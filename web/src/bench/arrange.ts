/** Which frames stand on the stage, and where. */

import type { Frame } from "../api/client";
import type { ShootState } from "../shoot/store";
import { compared, type useStage } from "./stageStore";
import { runLength, STRIP, type Tile, tiled, windows } from "./tiling";
import type { Size } from "./zoom";
import { sizeOf } from "./zoom";

/** A frame on the stage: where its picture stands (CSS px) and the size of its canvas (device px). */
export interface Shown {
  frame: Frame;
  tile: Tile;
  size: Size;
}

export interface Arrangement {
  shown: Shown[];
  /** All frames that are compared, in order, on the stage or in another run. */
  all: number[];
  run: number;
  runs: number;
}

type StageState = ReturnType<typeof useStage.getState>;

export function arrange(
  shoot: ShootState,
  stage: StageState,
  active: number,
  room: Size,
  bare: boolean,
): Arrangement {
  const all = compared(shoot, stage, active);
  const frame = (id: number | null) => (id === null ? undefined : shoot.frames.get(id));
  const strip = bare ? 0 : STRIP;
  const tilesFor = (frames: Frame[]): Tile[] =>
    stage.aim.scale === "fit" ? tiled(frames.map(ratioOf), room) : windows(frames.length, room);
  const whole = { left: 0, top: 0, width: room.width, height: Math.max(1, room.height - strip) };
  if (stage.layout === "two" && stage.holder !== null && stage.challenger !== null) {
    const two = [frame(stage.holder), frame(stage.challenger)].filter((f) => f !== undefined);
    const tiles = stage.blink ? two.map(() => whole) : tilesFor(two);
    return { shown: together(two, tiles), all, run: 0, runs: 1 };
  }
  const one = frame(active);
  if (stage.layout === "one" || all.length < 2) {
    return { shown: one ? together([one], [whole]) : [], all, run: 0, runs: 1 };
  }
  const frames = all.map(frame).filter((f) => f !== undefined);
  const length = runLength(frames.map(ratioOf), room);
  const run = Math.max(0, Math.floor(all.indexOf(active) / length));
  const here = frames.slice(run * length, (run + 1) * length);
  return { shown: together(here, tilesFor(here)), all, run, runs: Math.ceil(frames.length / length) };
}

function ratioOf(frame: Frame): number {
  const { width, height } = sizeOf(frame);
  return width / height;
}

function together(frames: Frame[], tiles: Tile[]): Shown[] {
  const ratio = window.devicePixelRatio || 1;
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
