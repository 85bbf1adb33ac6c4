import { useEffect, useReducer, useRef, useState } from "react";
import type { Frame } from "../../api/client";
import type { Point } from "../../pictures/aim";
import { useAim, usePointer } from "../../pictures/aimStore";
import { pictures } from "../../pictures/cache";
import { place, type Size, sizeOf, type Zoom } from "../../pictures/zoom";
import { useShoot } from "../../shoot/store";
import { useStage } from "./stageStore";

/** Diameter, CSS px. */
const WIDE = 190;

/** True pixels in a round window at the pointer, and at the matching point of every other frame. Until they are there it
 * has a broken edge: what is in it then was enlarged. */
export function Loupe({ frame, size, zoom }: { frame: Frame; size: Size; zoom: Zoom }) {
  const on = useStage((s) => s.loupe);
  return on && !frame.problem ? <Glass frame={frame} size={size} zoom={zoom} /> : null;
}

function Glass({ frame, size, zoom }: { frame: Frame; size: Size; zoom: Zoom }) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const [isTrue, setTrue] = useState(false);
  const [arrivals, noteArrival] = useReducer((n: number) => n + 1, 0);
  useEffect(() => pictures.listen(noteArrival), []);
  const pointer = usePointer();
  const point = matching(frame, pointer.frame, pointer.point);
  const ratio = window.devicePixelRatio || 1;
  const side = Math.round(WIDE * ratio);
  const { width } = sizeOf(frame);
  const x = point?.x ?? null;
  const y = point?.y ?? null;
  // biome-ignore lint/correctness/useExhaustiveDependencies: an arrival means that there is more to draw
  useEffect(() => {
    const context = canvas.current?.getContext("2d");
    const best = pictures.best(frame, size, "full");
    if (!context || !best || x === null || y === null) return;
    setTrue(best.quality === "full");
    const { left, top, width: across } = best.part ?? { left: 0, top: 0, width };
    const bitmapScale = best.bitmap.width / across;
    const reach = side * bitmapScale;
    context.fillStyle = "#000";
    context.fillRect(0, 0, side, side);
    context.imageSmoothingEnabled = best.quality !== "full";
    context.drawImage(
      best.bitmap,
      (x - left) * bitmapScale - reach / 2,
      (y - top) * bitmapScale - reach / 2,
      reach,
      reach,
      0,
      0,
      side,
      side,
    );
  }, [frame, x, y, arrivals, side, width]);
  if (!point) return null;
  const lies = place(sizeOf(frame), size, zoom);
  return (
    <canvas
      ref={canvas}
      width={side}
      height={side}
      data-testid="loupe"
      className={`pointer-events-none absolute z-20 rounded-full shadow-lg ${isTrue ? "outline-2 outline-white/80" : "outline-2 outline-dashed outline-white/60"}`}
      style={{
        // A pixel of the canvas on a pixel of the display: no edge may be taken off it, no other size given.
        width: side / ratio,
        height: side / ratio,
        left: Math.round(lies.left + point.x * lies.scale - side / 2) / ratio,
        top: Math.round(lies.top + point.y * lies.scale - side / 2) / ratio,
      }}
    />
  );
}

/** The point under the pointer in this frame: as far from where the subject was found as it is there. */
function matching(frame: Frame, over: number | null, point: Point | null): Point | null {
  if (over === null || !point) return null;
  if (over === frame.id) return point;
  const { found, aim } = useAim.getState();
  const of = (id: number) => (id === aim.frame ? aim.point : found.get(id)?.sure ? found.get(id) : undefined);
  const [here, there] = [of(frame.id), of(over)];
  if (here && there) return { x: point.x - there.x + here.x, y: point.y - there.y + here.y };
  const other = useShoot.getState().frames.get(over);
  if (!other) return null;
  const [mine, its] = [sizeOf(frame), sizeOf(other)];
  return { x: (point.x / its.width) * mine.width, y: (point.y / its.height) * mine.height };
}
