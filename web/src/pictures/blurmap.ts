/** The blur map and what was found, drawn over the picture on the stage. */

import type { Evidence } from "../api/client";
import { sigmaShort } from "../ui/format";
import type { Placement } from "./zoom";

/** σ in px: up to the first a tile is as sharp as it gets, from the second on it is plainly blurred. */
export const SHARP = 1.7;
export const BLURRED = 4;

/** How strongly a tile is tinted: 1 sharp, 0 blurred. */
export function sharpness(sigma: number): number {
  const share = Math.log(BLURRED / Math.max(sigma, 0.1)) / Math.log(BLURRED / SHARP);
  return Math.min(1, Math.max(0, share));
}

/** Draws over a picture that lies at `placement`; `width` is its full width in px. */
export function drawBlurMap(
  context: CanvasRenderingContext2D,
  evidence: Evidence,
  placement: Placement,
  width: number,
) {
  const { focus, faces } = evidence;
  if (!focus) return;
  const scale = placement.width / width;
  const tile = focus.tile_px * scale;
  context.save();
  context.font = `${Math.round(Math.min(13, tile / 3))}px "Source Sans 3 Variable", sans-serif`;
  context.textAlign = "center";
  context.textBaseline = "middle";
  focus.sigma_px.forEach((row, down) => {
    row.forEach((sigma, across) => {
      if (sigma === null) return;
      const left = placement.left + across * tile;
      const top = placement.top + down * tile;
      const sharp = sharpness(sigma);
      context.fillStyle = sharp > 0 ? `rgb(230 195 92 / ${0.16 + 0.34 * sharp})` : "rgb(0 0 0 / 0.28)";
      context.fillRect(left + 0.5, top + 0.5, tile - 1, tile - 1);
      if (tile >= 26) {
        context.fillStyle = "#000c";
        context.fillText(sigmaShort(sigma), left + tile / 2 + 1, top + tile / 2 + 1);
        context.fillStyle = "#fff";
        context.fillText(sigmaShort(sigma), left + tile / 2, top + tile / 2);
      }
    });
  });
  context.lineWidth = 1.5;
  for (const face of faces ?? []) {
    const [x0, y0, x1, y1] = face.box;
    context.strokeStyle = "#fff";
    context.strokeRect(
      placement.left + x0 * scale,
      placement.top + y0 * scale,
      (x1 - x0) * scale,
      (y1 - y0) * scale,
    );
  }
  if (focus.subject) cross(context, placement, focus.subject, scale);
  context.restore();
}

function cross(
  context: CanvasRenderingContext2D,
  placement: Placement,
  at: { x: number; y: number },
  scale: number,
) {
  const x = placement.left + at.x * scale;
  const y = placement.top + at.y * scale;
  for (const [colour, width] of [
    ["#000", 4],
    ["#fff", 2],
  ] as const) {
    context.strokeStyle = colour;
    context.lineWidth = width;
    context.beginPath();
    context.moveTo(x - 12, y);
    context.lineTo(x + 12, y);
    context.moveTo(x, y - 12);
    context.lineTo(x, y + 12);
    context.stroke();
  }
}
