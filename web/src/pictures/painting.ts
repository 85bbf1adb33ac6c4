/** Draws a frame into its canvas: the picture, and over it what was asked for. */

import type { Evidence, Frame } from "../api/client";
import { surroundColour } from "../ui/surround";
import { drawBlurMap } from "./blurmap";
import { pictures, type Quality } from "./cache";
import { drawClipping, drawPeaking } from "./overlays";
import { fitSize, place, type Size, sizeOf, type Zoom } from "./zoom";

/** What the display can show: pictures come with their profile, and keep what of it a canvas can hold. */
const GAMUT = window.matchMedia("(color-gamut: p3)").matches ? "display-p3" : "srgb";

/** How many times the pixels of its cell a canvas may have. */
const SPARE = 4;

/** Returns how good the picture is that there was. `cell`: device px, the upper left part of the canvas. `map`: drawn
 * over the picture if given. */
export function draw(
  canvas: HTMLCanvasElement,
  frame: Frame,
  cell: Size,
  zoom: Zoom,
  overlays: { peaking: boolean; clipping: boolean },
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
  const best = drawPicture(context, frame, cell, zoom);
  if (best) {
    const lies = place(sizeOf(frame), cell, zoom);
    if (overlays.peaking) drawPeaking(context, lies, cell);
    if (overlays.clipping) drawClipping(context, lies, cell);
    if (map?.focus) drawBlurMap(context, map, lies, sizeOf(frame).width);
  }
  context.restore();
  return best;
}

function drawPicture(
  context: CanvasRenderingContext2D,
  frame: Frame,
  cell: Size,
  zoom: Zoom,
): Quality | null {
  const zoomed = zoom.scale !== "fit";
  const best = frame.problem ? null : pictures.best(frame, fitSize(frame, cell), zoomed ? "full" : "fit");
  if (!best) return null;
  const { bitmap, quality, exact } = best;
  if (exact && !zoomed) {
    const [left, top] = [(cell.width - bitmap.width) / 2, (cell.height - bitmap.height) / 2];
    context.drawImage(bitmap, Math.round(left), Math.round(top));
    return quality;
  }
  const lies = place(sizeOf(frame), cell, zoom);
  // True pixels stay pixels when enlarged; everything else is smoothed: between neighbours, which answers at once
  // without a graphics card, unless it is made so small that pixels would be skipped.
  context.imageSmoothingEnabled = !(quality === "full" && lies.scale >= 1);
  context.imageSmoothingQuality = lies.width < bitmap.width / 2 ? "medium" : "low";
  context.drawImage(bitmap, lies.left, lies.top, lies.width, lies.height);
  return quality;
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
