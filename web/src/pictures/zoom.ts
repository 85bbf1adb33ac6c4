/** How a picture lies on the stage. Lengths are device pixels unless said otherwise. */

export interface Size {
  width: number;
  height: number;
}

/** A part of a picture, px of the full one. */
export interface Part extends Size {
  left: number;
  top: number;
}

/** `scale` is screen pixels a picture pixel, or "fit"; `x`, `y` is the point of the picture, as shares
 * of its width and height, that stands in the middle. It stays from frame to frame. */
export interface Zoom {
  scale: number | "fit";
  x: number;
  y: number;
}

export function fitScale(picture: Size, stage: Size): number {
  return Math.min(stage.width / picture.width, stage.height / picture.height);
}

/** Long edge of the medium pictures, px: large enough for most stages, and decoded in a fraction of the time of a preview. */
export const MEDIUM_EDGE = 1280;

export function longEdge({ width, height }: Size): number {
  return Math.max(width, height);
}

/** The shape of a frame as it will be shown, before its size is known too. */
export function sizeOf(frame: { width: number | null; height: number | null }): Size {
  if (frame.width && frame.height) return { width: frame.width, height: frame.height };
  return { width: 3, height: 2 };
}

/** Device px of a whole picture in a cell: what its `fit` bitmap is made for. */
export function fitSize(frame: { width: number | null; height: number | null }, cell: Size): Size {
  const picture = sizeOf(frame);
  const scale = fitScale(picture, cell);
  return {
    width: Math.max(1, Math.round(picture.width * scale)),
    height: Math.max(1, Math.round(picture.height * scale)),
  };
}

export interface Placement extends Size {
  left: number;
  top: number;
  scale: number;
}

/** Where the picture lies: centred where it is smaller than the stage, else never past its edges. As a whole it lies just
 * as its `fit` bitmap does: a better picture that comes in must not move by a pixel. */
export function place(picture: Size, stage: Size, zoom: Zoom): Placement {
  const scale = zoom.scale === "fit" ? fitScale(picture, stage) : zoom.scale;
  const exact = { width: picture.width * scale, height: picture.height * scale };
  const { width, height } = zoom.scale === "fit" ? fitSize(picture, stage) : exact;
  return {
    scale,
    width,
    height,
    left: Math.round(along(width, stage.width, zoom.x)),
    top: Math.round(along(height, stage.height, zoom.y)),
  };
}

function along(length: number, space: number, centre: number): number {
  if (length <= space) return (space - length) / 2;
  return Math.min(0, Math.max(space - length, space / 2 - centre * length));
}

/** The point of the picture (as shares) under a point of the stage. */
export function pointAt(placement: Placement, left: number, top: number): { x: number; y: number } {
  const clamp = (value: number) => Math.min(1, Math.max(0, value));
  return {
    x: clamp((left - placement.left) / placement.width),
    y: clamp((top - placement.top) / placement.height),
  };
}
