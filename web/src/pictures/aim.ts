/** Where each frame on the stage is looked at: one point for all, found again in every frame, moved together
 * and, where somebody wants it, apart. Points are px of the full picture. */

import { fitScale, type Placement, place, type Size, type Zoom } from "./zoom";

export interface Point {
  x: number;
  y: number;
}

/** A point found again in another frame. */
export interface Found extends Point {
  confidence: number;
  sure: boolean;
}

export interface Aim {
  /** Screen px a px of the picture, or the whole frame. */
  scale: number | "fit";
  /** The frame in which the point was chosen, and the point; `subject`: what the frame is about. */
  frame: number | null;
  point: Point;
  subject: boolean;
  /** How far all frames were moved together since, and each by itself. */
  drift: Point;
  offsets: Map<number, Point>;
}

export const WHOLE: Aim = {
  scale: "fit",
  frame: null,
  point: { x: 0, y: 0 },
  subject: false,
  drift: { x: 0, y: 0 },
  offsets: new Map(),
};

/** The point that stands in the middle of a frame's cell, as shares of the frame. `chosenIn`: size of the frame
 * the point was chosen in. `found`: where this frame shows it; without, the same relative place. */
export function aimed(aim: Aim, id: number, size: Size, chosenIn: Size, found: Found | undefined): Zoom {
  const base =
    id === aim.frame || !found?.sure
      ? { x: (aim.point.x / chosenIn.width) * size.width, y: (aim.point.y / chosenIn.height) * size.height }
      : found;
  const own = aim.offsets.get(id);
  return {
    scale: aim.scale,
    x: (base.x + aim.drift.x + (own?.x ?? 0)) / size.width,
    y: (base.y + aim.drift.y + (own?.y ?? 0)) / size.height,
  };
}

/** All frames moved by a drag over one of them (screen px); with `alone`, that one only. */
export function dragged(aim: Aim, id: number, scale: number, dx: number, dy: number, alone: boolean): Aim {
  const by = { x: -dx / scale, y: -dy / scale };
  if (!alone) return { ...aim, drift: { x: aim.drift.x + by.x, y: aim.drift.y + by.y } };
  const own = aim.offsets.get(id) ?? { x: 0, y: 0 };
  return { ...aim, offsets: new Map(aim.offsets).set(id, { x: own.x + by.x, y: own.y + by.y }) };
}

/** Another scale, with the picture point under a place of one cell (screen px) kept there. */
export function scaled(aim: Aim, factor: number, picture: Size, cell: Size, lies: Placement, at: Point): Aim {
  const fit = fitScale(picture, cell);
  const scale = Math.min(8, Math.max(fit, lies.scale * factor));
  if (scale <= fit * 1.001) return { ...aim, scale: "fit", drift: { x: 0, y: 0 } };
  const under = { x: (at.x - lies.left) / lies.scale, y: (at.y - lies.top) / lies.scale };
  const middle = {
    x: under.x - (at.x - cell.width / 2) / scale,
    y: under.y - (at.y - cell.height / 2) / scale,
  };
  const now = {
    x: (cell.width / 2 - lies.left) / lies.scale,
    y: (cell.height / 2 - lies.top) / lies.scale,
  };
  const moved = { x: aim.drift.x + middle.x - now.x, y: aim.drift.y + middle.y - now.y };
  return { ...aim, scale, drift: moved };
}

/** A drift that does not lead past the edges of a frame: its cell shows the same, and the next drag answers
 * at once. */
export function heldIn(aim: Aim, zoom: Zoom, picture: Size, cell: Size): Aim {
  if (zoom.scale === "fit") return aim;
  const lies = place(picture, cell, zoom);
  const edge = (share: number, length: number, space: number) => {
    const least = Math.min(0.5, space / 2 / length);
    return Math.min(1 - least, Math.max(least, share)) - share;
  };
  const dx = edge(zoom.x, lies.width, cell.width) * picture.width;
  const dy = edge(zoom.y, lies.height, cell.height) * picture.height;
  return dx || dy ? { ...aim, drift: { x: aim.drift.x + dx, y: aim.drift.y + dy } } : aim;
}
