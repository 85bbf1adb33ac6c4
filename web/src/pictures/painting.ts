/** Draws a frame into its canvas: the picture, and over it what was asked for. */

import type { Evidence, Frame } from "../api/client";
import { surroundColour } from "../ui/surround";
import { drawBlurMap } from "./blurmap";
import { type Best, pictures, type Quality } from "./cache";
import { GAMUT } from "./gamut";
import { overlayOf } from "./overlayBitmaps";
import type { Wanted } from "./overlays";
import { fitSize, type Part, type Placement, place, type Size, sizeOf, type Zoom } from "./zoom";

/** How many times the pixels of its cell a canvas may have. */
const SPARE = 4;

/** Returns how good the picture is that there was. `cell`: device px, the upper left part of the canvas. `map`: drawn
 * over the picture if given. */
export function draw(
  canvas: HTMLCanvasElement,
  frame: Frame,
  cell: Size,
  zoom: Zoom,
  overlays: Wanted,
  map: Evidence | null,
): Quality | null {
  enlarge(canvas, cell);
  const context = canvas.getContext("2d", { alpha: false, willReadFrequently: false, colorSpace: GAMUT });
  if (!context) return null;
  context.save();
  context.beginPath();
  context.rect(0, 0, cell.width, cell.height);
  context.clip();
  context.fillStyle = surroundColour;
  context.fillRect(0, 0, cell.width, cell.height);
  const zoomed = zoom.scale !== "fit";
  const size = fitSize(frame, cell);
  const best = frame.problem ? null : pictures.best(frame, size, zoomed ? "full" : "fit");
  if (best) {
    const lies = place(sizeOf(frame), cell, zoom);
    // A part does not reach everywhere.
    const under = best.part && pictures.best(frame, size, "preview");
    if (under) drawPicture(context, frame, under, lies);
    const finer = zoomed ? null : pictures.finer(frame, size);
    if (best.exact && !zoomed && !finer) drawExactly(context, best.bitmap, cell);
    else drawPicture(context, frame, finer ?? best, lies);
    drawOver(context, frame, best, lies, cell, overlays);
    if (map?.focus) drawBlurMap(context, map, lies, sizeOf(frame).width);
  }
  context.restore();
  return best?.quality ?? null;
}

function drawExactly(context: CanvasRenderingContext2D, bitmap: ImageBitmap, cell: Size) {
  const [left, top] = [(cell.width - bitmap.width) / 2, (cell.height - bitmap.height) / 2];
  context.drawImage(bitmap, Math.round(left), Math.round(top));
}

function drawPicture(context: CanvasRenderingContext2D, frame: Frame, best: Best, lies: Placement) {
  const { bitmap, quality } = best;
  // True pixels stay pixels when enlarged; everything else is smoothed: between neighbours, which answers at once
  // without a graphics card, unless it is made so small that pixels would be skipped.
  context.imageSmoothingEnabled = !(quality === "full" && lies.scale >= 1);
  const part = partOf(best, frame);
  context.imageSmoothingQuality = part.width * lies.scale < bitmap.width / 2 ? "medium" : "low";
  drawPart(context, frame, bitmap, part, lies);
}

function drawOver(
  context: CanvasRenderingContext2D,
  frame: Frame,
  best: Best,
  lies: Placement,
  cell: Size,
  wanted: Wanted,
) {
  const source = {
    bitmap: best.bitmap,
    name: `${frame.version} ${best.quality} ${best.bitmap.width} ${best.part?.left ?? 0} ${best.part?.top ?? 0}`,
    part: partOf(best, frame),
  };
  const over = overlayOf(frame.id, source, lies, cell, wanted);
  if (!over) return;
  context.imageSmoothingEnabled = false;
  drawPart(context, frame, over.bitmap, over.part, lies);
}

function drawPart(
  context: CanvasRenderingContext2D,
  frame: Frame,
  bitmap: ImageBitmap,
  part: Part,
  lies: Placement,
) {
  const whole = sizeOf(frame);
  const [across, down] = [lies.width / whole.width, lies.height / whole.height];
  const [left, top] = [lies.left + part.left * across, lies.top + part.top * down];
  context.drawImage(bitmap, left, top, part.width * across, part.height * down);
}

/** What a bitmap is of, px of the full picture. */
function partOf({ part }: Best, frame: Frame): Part {
  return part ?? { left: 0, top: 0, ...sizeOf(frame) };
}

/** Makes a canvas at least as large as its cell. New memory for a canvas takes longer than drawing into it, and the
 * cell of a zoomed frame has another size. */
function enlarge(canvas: HTMLCanvasElement, cell: Size) {
  const width = Math.max(canvas.width, cell.width);
  const height = Math.max(canvas.height, cell.height);
  const fits = width === canvas.width && height === canvas.height;
  if (!fits || width * height > SPARE * cell.width * cell.height) {
    canvas.width = fits ? cell.width : width;
    canvas.height = fits ? cell.height : height;
  }
  const ratio = window.devicePixelRatio || 1;
  canvas.style.width = `${canvas.width / ratio}px`;
  canvas.style.height = `${canvas.height / ratio}px`;
}
