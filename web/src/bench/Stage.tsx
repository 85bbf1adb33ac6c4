import { useCallback, useEffect, useLayoutEffect, useRef, useState } from "react";
import type { Evidence, Frame } from "../api/client";
import { usePointsShown, useShout } from "../keys/useKeys";
import { DECISION_WORDS } from "../parts/marks";
import { asked, shown } from "../perf";
import { neighbour } from "../shoot/moving";
import { useShoot } from "../shoot/store";
import { drawBlurMap } from "./blurmap";
import { Pictures, type Quality } from "./pictures";
import { FIT, panned, place, pointAt, type Size, type Zoom } from "./zoom";

/** Frames ahead and behind that are kept decoded, nearest first. */
const AHEAD = [0, 1, -1, 2, 3, -2, 4, 5, 6, 7, 8];

/** One frame, as large as the room allows; with `map`, its blur map over it. */
export function Stage({ frame, map }: { frame: Frame; map: Evidence | null }) {
  const box = useRef<HTMLDivElement>(null);
  const canvas = useRef<HTMLCanvasElement>(null);
  const pointer = useRef<{ left: number; top: number } | null>(null);
  const drag = useRef<{ left: number; top: number } | null>(null);
  const [stage, setStage] = useState<Size>({ width: 0, height: 0 });
  const [zoom, setZoom] = useState<Zoom>(FIT);
  const [arrivals, setArrivals] = useState(0);
  const [quality, setQuality] = useState<Quality | null>(null);
  const current = useRef(frame.id);
  current.current = frame.id;
  const pictures = useRef<Pictures>(null);
  pictures.current ??= new Pictures((id) => {
    if (id === current.current) setArrivals((n) => n + 1);
  });
  const zoomed = zoom.scale !== "fit";

  useEffect(() => () => pictures.current?.clear(), []);

  useLayoutEffect(() => {
    const element = box.current;
    if (!element) return;
    const measure = () => {
      const ratio = window.devicePixelRatio || 1;
      setStage({
        width: Math.round(element.clientWidth * ratio),
        height: Math.round(element.clientHeight * ratio),
      });
    };
    measure();
    const observer = new ResizeObserver(measure);
    observer.observe(element);
    return () => observer.disconnect();
  }, []);

  // Draw before the browser paints: the key press and the new picture are one paint apart.
  // biome-ignore lint/correctness/useExhaustiveDependencies: an arrival means that there is more to draw
  useLayoutEffect(() => {
    const element = canvas.current;
    const context = element?.getContext("2d", { alpha: false });
    if (!element || !context || !stage.width) return;
    pictures.current?.resize(stage.width, stage.height);
    if (element.width !== stage.width || element.height !== stage.height) {
      element.width = stage.width;
      element.height = stage.height;
    }
    context.fillStyle = "#191919";
    context.fillRect(0, 0, stage.width, stage.height);
    const found = frame.problem ? null : pictures.current?.best(frame, zoomed ? "full" : "fit");
    setQuality(found?.quality ?? null);
    if (!found) return;
    const size = sizeOf(frame, found.bitmap);
    const { left, top, width, height, scale } = place(size, stage, zoom);
    if (found.quality === "fit" && !zoomed) {
      context.drawImage(
        found.bitmap,
        Math.round((stage.width - found.bitmap.width) / 2),
        Math.round((stage.height - found.bitmap.height) / 2),
      );
    } else {
      // True pixels stay pixels when enlarged; everything else is smoothed.
      context.imageSmoothingEnabled = !(found.quality === "full" && scale >= 1);
      context.imageSmoothingQuality = "high";
      context.drawImage(found.bitmap, left, top, width, height);
    }
    if (map?.focus) drawBlurMap(context, map, { left, top, width, height, scale }, size.width);
    if (found.quality !== "small") {
      shown("winnow:show-frame", frame.id);
      if (zoomed) shown("winnow:zoom-preview", frame.id);
    }
    if (found.quality === "full") shown("winnow:zoom-pixels", frame.id);
  }, [frame, stage, zoom, zoomed, arrivals, map]);

  // biome-ignore lint/correctness/useExhaustiveDependencies: neighbours follow from the frame
  useEffect(() => {
    if (!stage.width) return;
    const { frames } = useShoot.getState();
    const near = AHEAD.map((by) => (by === 0 ? frame : frames.get(neighbour(by) ?? -1))).filter(
      (f) => f !== undefined,
    );
    const wishes = near.map((f) => ({ frame: f, quality: "fit" as Quality }));
    const first = wishes.shift();
    const full = near.slice(0, 3).map((f) => ({ frame: f, quality: "full" as Quality }));
    const preview = near.slice(0, 3).map((f) => ({ frame: f, quality: "preview" as Quality }));
    pictures.current?.want([
      { frame, quality: "small" },
      ...(first ? [first] : []),
      ...(zoomed ? [...preview.slice(0, 1), ...full.slice(0, 1)] : []),
      ...wishes.slice(0, 3),
      ...(zoomed ? [...preview.slice(1), ...full.slice(1)] : preview.slice(0, 1)),
      ...wishes.slice(3),
    ]);
  }, [frame.id, frame.version, frame.stage, stage, zoomed]);

  const toggleZoom = useCallback(
    (at?: { left: number; top: number } | null, time = performance.now()) => {
      asked("winnow:zoom-preview", time, frame.id);
      asked("winnow:zoom-pixels", time, frame.id);
      setZoom((now) => {
        if (now.scale !== "fit") return { ...now, scale: "fit" };
        const size = sizeOf(frame, null);
        const point = at ? pointAt(place(size, stage, now), at.left, at.top) : { x: 0.5, y: 0.5 };
        return { scale: 1, ...point };
      });
    },
    [frame, stage],
  );
  useShout(
    "zoom",
    useCallback(() => toggleZoom(pointer.current), [toggleZoom]),
  );

  usePointsShown(
    useCallback(
      ({ x, y }) => {
        const size = sizeOf(frame, null);
        setZoom({ scale: 1, x: x / size.width, y: y / size.height });
      },
      [frame],
    ),
  );

  const where = (event: React.PointerEvent | React.MouseEvent) => {
    const ratio = window.devicePixelRatio || 1;
    const bounds = event.currentTarget.getBoundingClientRect();
    return { left: (event.clientX - bounds.left) * ratio, top: (event.clientY - bounds.top) * ratio };
  };

  return (
    <div
      ref={box}
      className={`relative min-h-0 min-w-0 flex-1 overflow-hidden ${frame.decision === "reject" ? "rejected" : ""}`}
    >
      <canvas
        ref={canvas}
        role="img"
        aria-label={`${frame.name}, ${DECISION_WORDS[frame.decision]}, ${frame.rating} stars`}
        data-frame={frame.id}
        data-quality={quality ?? "none"}
        data-zoomed={zoomed}
        className={`absolute inset-0 size-full touch-none ${zoomed ? "cursor-grab active:cursor-grabbing" : "cursor-zoom-in"}`}
        onPointerDown={(event) => {
          if (event.button !== 0) return;
          event.currentTarget.setPointerCapture(event.pointerId);
          drag.current = where(event);
        }}
        onPointerMove={(event) => {
          const now = where(event);
          const from = drag.current;
          pointer.current = now;
          if (!from || !zoomed) return;
          drag.current = now;
          setZoom((z) => panned(z, sizeOf(frame, null), stage, now.left - from.left, now.top - from.top));
        }}
        onPointerUp={() => {
          drag.current = null;
        }}
        onPointerLeave={() => {
          pointer.current = null;
        }}
        onDoubleClick={(event) => toggleZoom(where(event), event.timeStamp)}
      />
      {frame.decision === "reject" && !zoomed && <div className="struck opacity-70" />}
      {frame.problem && (
        <div role="alert" className="absolute inset-0 grid place-items-center p-10 text-center">
          <p className="max-w-md">
            <b className="block pb-1 font-semibold">{frame.name} cannot be shown</b>
            <span className="text-ink2">{frame.problem}</span>
          </p>
        </div>
      )}
      {zoomed && (
        <output className="absolute top-2 right-2 rounded bg-black/70 px-2 py-0.5 text-xs">
          {quality === "full" ? "100 %" : "100 %, true pixels coming"}
        </output>
      )}
    </div>
  );
}

function sizeOf(frame: Frame, bitmap: ImageBitmap | null): Size {
  if (frame.width && frame.height) return { width: frame.width, height: frame.height };
  return bitmap ?? { width: 3, height: 2 };
}
