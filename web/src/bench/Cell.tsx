import { useEffect, useLayoutEffect, useRef, useState } from "react";
import type { Evidence, Frame } from "../api/client";
import { DECISION_WORDS } from "../parts/marks";
import { type Aim, aimed, dragged, type Found, heldIn, type Point, scaled } from "./aim";
import { Loupe } from "./Loupe";
import { draw } from "./painting";
import { pictures, type Quality } from "./pictures";
import { aimAt, layAside, pointer, setAim, useStage } from "./stageStore";
import { useEvidence } from "./useEvidence";
import { useGestures } from "./useGestures";
import { place, pointAt, type Size, sizeOf, type Zoom } from "./zoom";

export interface CellProps {
  frame: Frame;
  /** Of the canvas, device px. */
  size: Size;
  active: boolean;
  found: Found | undefined;
  /** The frame that the point was chosen in. */
  chosenIn: Frame | undefined;
  drawn: (id: number, quality: Quality | null) => void;
  onSwipe: (way: "up" | "down" | "left" | "right", time: number) => void;
  onActivate: (time: number) => void;
}

/** One frame on the stage: its picture, at the place that all frames are looked at. */
export function Cell(props: CellProps) {
  const { frame, size, active, found, chosenIn, drawn, onSwipe, onActivate } = props;
  const surface = useRef<HTMLDivElement>(null);
  const canvas = useRef<HTMLCanvasElement>(null);
  const aim = useStage((s) => s.aim);
  const overlays = useStage((s) => s.overlays);
  const [arrivals, setArrivals] = useState(0);
  const [quality, setQuality] = useState<Quality | null>(null);
  const { data: evidence } = useEvidence(frame);
  const map = overlays.map ? (evidence ?? null) : null;
  const picture = sizeOf(frame);
  const zoom = aimed(aim, frame.id, picture, chosenIn ? sizeOf(chosenIn) : picture, found);
  const zoomed = zoom.scale !== "fit";
  const followed = zoomed && frame.id !== aim.frame && found?.sure === true;

  useEffect(() => {
    const again = () => setArrivals((n) => n + 1);
    window.addEventListener("winnow:surround", again);
    return () => window.removeEventListener("winnow:surround", again);
  }, []);
  useEffect(
    () =>
      pictures.listen((id) => {
        if (id === frame.id) setArrivals((n) => n + 1);
      }),
    [frame.id],
  );

  // Draw before the browser paints: the key press and the new picture are one paint apart.
  // biome-ignore lint/correctness/useExhaustiveDependencies: an arrival means that there is more to draw
  useLayoutEffect(() => {
    if (!canvas.current || !size.width) return;
    const now = draw(canvas.current, frame, size, zoom, overlays, map);
    setQuality(now);
    drawn(frame.id, now);
  }, [frame, size.width, size.height, zoom.scale, zoom.x, zoom.y, arrivals, map, overlays, drawn]);

  const gestures = useGestures(surface, zoomed, {
    tap: (at, twice, touch, time) => {
      if (twice || (active && !touch)) toggleZoomAt(frame, size, zoom, at, time);
      else if (!active) onActivate(time);
    },
    drag: (by, alone) => {
      if (zoom.scale === "fit") return;
      const moved = dragged(aim, frame.id, zoom.scale, by.x, by.y, alone);
      setAim(alone ? moved : held(moved, frame, size, chosenIn, found));
    },
    scale: (factor, at) => {
      const first =
        aim.scale === "fit"
          ? { ...aim, frame: frame.id, point: middleOf(picture), subject: false, offsets: new Map() }
          : aim;
      const lies = place(picture, size, zoom);
      setAim(held(scaled(first, factor, picture, size, lies, at), frame, size, chosenIn, found));
    },
    swipe: onSwipe,
    hover: (at) => {
      const share = at ? pointAt(place(picture, size, zoom), at.x, at.y) : null;
      pointer.frame = share ? frame.id : null;
      pointer.point = share && { x: share.x * picture.width, y: share.y * picture.height };
      window.dispatchEvent(new Event("winnow:pointer"));
    },
  });

  return (
    <>
      <div
        ref={surface}
        role="img"
        aria-label={`${frame.name}, ${DECISION_WORDS[frame.decision]}, ${frame.rating} stars`}
        data-frame={frame.id}
        data-active={active}
        data-quality={quality ?? "none"}
        data-zoomed={zoomed}
        data-at={`${Math.round(zoom.x * picture.width)},${Math.round(zoom.y * picture.height)}`}
        data-followed={followed}
        className={`absolute inset-0 touch-none overflow-hidden ${zoomed ? "cursor-grab active:cursor-grabbing" : active ? "cursor-zoom-in" : "cursor-pointer"}`}
        {...gestures}
      >
        <canvas ref={canvas} />
      </div>
      {frame.decision === "reject" && !zoomed && <div className="struck opacity-70" />}
      {frame.problem && (
        <div role="alert" className="absolute inset-0 grid place-items-center p-4 text-center">
          <p className="max-w-md">
            <b className="block pb-1 font-semibold">{frame.name} cannot be shown</b>
            <span className="text-ink2">{frame.problem}</span>
          </p>
        </div>
      )}
      {zoomed && (
        <ZoomWords
          scale={zoom.scale as number}
          quality={quality}
          id={frame.id}
          aim={aim}
          found={found}
          face={faceAt(evidence, { x: zoom.x * picture.width, y: zoom.y * picture.height })}
        />
      )}
      <Loupe frame={frame} size={size} zoom={zoom} />
      {!frame.problem && (
        <button
          type="button"
          tabIndex={-1}
          aria-label={`Take ${frame.name} off the stage`}
          title="Take off the stage"
          onClick={() => layAside(frame.id)}
          className="absolute top-1 left-1 over-picture hidden size-6 rounded group-hover:block"
        >
          −
        </button>
      )}
    </>
  );
}

function ZoomWords(props: {
  scale: number;
  quality: Quality | null;
  id: number;
  aim: Aim;
  found: Found | undefined;
  face: Face | undefined;
}) {
  const { scale, quality, id, aim, found, face } = props;
  const follow = useStage((s) => s.follow);
  const sure =
    !follow || id === aim.frame || aim.frame === null
      ? ""
      : found?.sure
        ? ` · follows, ${Math.round(100 * found.confidence)} % sure`
        : found
          ? " · not sure: same place"
          : " · same place";
  return (
    <output className="pointer-events-none absolute top-1 right-1 ml-1 over-picture rounded px-1.5 py-0.5 text-right text-[11px]">
      {Math.round(100 * scale)} %{quality === "full" ? "" : ", true pixels coming"}
      {sure}
      {typeof face?.sigma_px === "number" && ` · face\u00a0${face.sigma_px.toFixed(1)}\u00a0px`}
    </output>
  );
}

type Face = NonNullable<Evidence["faces"]>[number];

/** The face that is looked at, which need not be the one that the frame is about. */
function faceAt(evidence: Evidence | undefined, at: Point): Face | undefined {
  return evidence?.faces?.find(
    ({ box: [left, top, right, bottom] }) => at.x >= left && at.x <= right && at.y >= top && at.y <= bottom,
  );
}

/** To 100 % at a place of a cell, and back. */
export function toggleZoomAt(
  frame: Frame,
  cell: Size,
  zoom: Zoom,
  at: { x: number; y: number },
  time: number,
  scale = 1,
) {
  const picture = sizeOf(frame);
  const share = pointAt(place(picture, cell, zoom), at.x, at.y);
  const point = { x: share.x * picture.width, y: share.y * picture.height };
  const { aim } = useStage.getState();
  if (zoom.scale !== "fit") setAim({ ...aim, scale: "fit" });
  else aimAt(frame.id, point, scale, false, time);
}

function held(
  aim: Aim,
  frame: Frame,
  cell: Size,
  chosenIn: Frame | undefined,
  found: Found | undefined,
): Aim {
  const picture = sizeOf(frame);
  const zoom = aimed(aim, frame.id, picture, chosenIn ? sizeOf(chosenIn) : picture, found);
  return heldIn(aim, zoom, picture, cell);
}

function middleOf(size: Size) {
  return { x: size.width / 2, y: size.height / 2 };
}
