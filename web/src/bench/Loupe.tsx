import { useEffect, useReducer, useRef } from "react";
import type { Frame } from "../api/client";
import { useShoot } from "../shoot/store";
import { pictures } from "./pictures";
import { pointer, useStage } from "./stageStore";
import { place, type Size, sizeOf, type Zoom } from "./zoom";

/** Diameter, CSS px. */
const WIDE = 190;

/** True pixels in a round window at the pointer, and at the matching point of every other frame. */
export function Loupe({ frame, size, zoom }: { frame: Frame; size: Size; zoom: Zoom }) {
  const on = useStage((s) => s.loupe);
  return on && !frame.problem ? <Glass frame={frame} size={size} zoom={zoom} /> : null;
}

function Glass({ frame, size, zoom }: { frame: Frame; size: Size; zoom: Zoom }) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const [moves, moved] = useReducer((n: number) => n + 1, 0);
  useEffect(() => {
    window.addEventListener("winnow:pointer", moved);
    const end = pictures.listen(moved);
    return () => {
      window.removeEventListener("winnow:pointer", moved);
      end();
    };
  }, []);
  const point = matching(frame);
  const ratio = window.devicePixelRatio || 1;
  const side = Math.round(WIDE * ratio);
  const { width } = sizeOf(frame);
  const x = point?.x ?? null;
  const y = point?.y ?? null;
  // biome-ignore lint/correctness/useExhaustiveDependencies: a move or an arrival means that there is more to draw
  useEffect(() => {
    const context = canvas.current?.getContext("2d");
    const best = pictures.best(frame, size, "full");
    if (!context || !best || x === null || y === null) return;
    const bitmapScale = best.bitmap.width / width;
    const reach = side * bitmapScale;
    context.fillStyle = "#000";
    context.fillRect(0, 0, side, side);
    context.imageSmoothingEnabled = best.quality !== "full";
    context.drawImage(
      best.bitmap,
      x * bitmapScale - reach / 2,
      y * bitmapScale - reach / 2,
      reach,
      reach,
      0,
      0,
      side,
      side,
    );
  }, [frame, x, y, moves, side, width]);
  if (!point) return null;
  const lies = place(sizeOf(frame), size, zoom);
  return (
    <canvas
      ref={canvas}
      width={side}
      height={side}
      data-testid="loupe"
      className="pointer-events-none absolute z-20 rounded-full border-2 border-white/80 shadow-lg"
      style={{
        width: WIDE,
        height: WIDE,
        left: (lies.left + point.x * lies.scale) / ratio - WIDE / 2,
        top: (lies.top + point.y * lies.scale) / ratio - WIDE / 2,
      }}
    />
  );
}

/** The point under the pointer in this frame: as far from where the subject was found as it is there. */
function matching(frame: Frame): { x: number; y: number } | null {
  const { frame: over, point } = pointer;
  if (over === null || !point) return null;
  if (over === frame.id) return point;
  const { found, aim } = useStage.getState();
  const of = (id: number) => (id === aim.frame ? aim.point : found.get(id)?.sure ? found.get(id) : undefined);
  const [here, there] = [of(frame.id), of(over)];
  if (here && there) return { x: point.x - there.x + here.x, y: point.y - there.y + here.y };
  const other = useShoot.getState().frames.get(over);
  if (!other) return null;
  const [mine, its] = [sizeOf(frame), sizeOf(other)];
  return { x: (point.x / its.width) * mine.width, y: (point.y / its.height) * mine.height };
}
