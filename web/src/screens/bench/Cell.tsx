import { useEffect, useLayoutEffect, useRef, useState } from "react";
import type { Frame } from "../../api/client";
import { useHome } from "../../keys/home";
import { type Aim, aimed, dragged, type Found, heldIn, scaled } from "../../pictures/aim";
import { aimAt, setAim, useAim, usePointer } from "../../pictures/aimStore";
import { pictures, type Quality } from "../../pictures/cache";
import { onOverlay } from "../../pictures/overlayBitmaps";
import { draw } from "../../pictures/painting";
import { place, pointAt, type Size, sizeOf, type Zoom } from "../../pictures/zoom";
import { useEvidence } from "../../shoot/evidence";
import { frameInWords } from "../../shoot/inWords";
import { useUnmarked } from "../../shoot/unmarked";
import { useSettings } from "../../ui/settings";
import { CaptureLine } from "./CaptureLine";
import { Loupe } from "./Loupe";
import { OwnPoint } from "./OwnPoint";
import { PlainPicture } from "./PlainPicture";
import { useStage } from "./stageStore";
import { layAside } from "./staging";
import { useGestures, type Way } from "./useGestures";
import { ZoomWords } from "./ZoomWords";

interface Props {
  frame: Frame;
  /** Of the canvas, device px. */
  size: Size;
  active: boolean;
  found: Found | undefined;
  /** The frame that the point was chosen in. */
  chosenIn: Frame | undefined;
  onDrawn: (id: number, quality: Quality | null) => void;
  onSwipe: (way: Way, time: number) => void;
  onActivate: (time: number) => void;
}

/** One frame on the stage: its picture, at the place that all frames are looked at. */
export function Cell(props: Props) {
  const { frame, size, active, found } = props;
  const surface = useRef<HTMLDivElement>(null);
  const canvas = useRef<HTMLCanvasElement>(null);
  const aim = useAim((s) => s.aim);
  const { data: evidence } = useEvidence(frame);
  const picture = sizeOf(frame);
  const zoom = zoomOf(aim, props);
  const zoomed = zoom.scale !== "fit";
  const quality = usePicture(canvas, props, zoom);
  useLooking(surface, props, zoom);
  useHome(surface, active, frame.id);
  return (
    <>
      <div
        ref={surface}
        role="img"
        tabIndex={active ? 0 : undefined}
        aria-current={active ? "true" : undefined}
        aria-label={frameInWords(frame)}
        data-frame={frame.id}
        data-active={active}
        data-quality={quality ?? "none"}
        data-zoomed={zoomed}
        data-at={`${Math.round(zoom.x * picture.width)},${Math.round(zoom.y * picture.height)}`}
        data-followed={zoomed && frame.id !== aim.frame && found?.sure === true}
        className={`absolute inset-0 touch-none overflow-hidden ${zoomed ? "cursor-grab active:cursor-grabbing" : active ? "cursor-zoom-in" : "cursor-pointer"}`}
      >
        <canvas ref={canvas} />
      </div>
      {frame.decision === "reject" && !zoomed && <div className="struck opacity-70" />}
      {frame.problem && <Problem frame={frame} />}
      {!frame.problem && <PlainPicture frame={frame} size={size} zoom={zoom} />}
      {!frame.problem && <CaptureLine frame={frame} size={size} zoom={zoom} active={active} />}
      {zoomed && (
        <ZoomWords zoom={zoom} quality={quality} frame={frame} aim={aim} found={found} evidence={evidence} />
      )}
      {!frame.problem && <OwnPoint frame={frame} size={size} zoom={zoom} evidence={evidence} />}
      <Loupe frame={frame} size={size} zoom={zoom} />
      {!frame.problem && <AsideButton frame={frame} />}
    </>
  );
}

function zoomOf(aim: Aim, { frame, found, chosenIn }: Pick<Props, "frame" | "found" | "chosenIn">): Zoom {
  const picture = sizeOf(frame);
  return aimed(aim, frame.id, picture, chosenIn ? sizeOf(chosenIn) : picture, found);
}

/** Draws the picture, again when a better one is there. Returns how good it is. */
function usePicture(canvas: React.RefObject<HTMLCanvasElement | null>, props: Props, zoom: Zoom) {
  const { size, onDrawn } = props;
  const frame = useUnmarked(props.frame);
  const overlays = useStage((s) => s.overlays);
  const surround = useSettings((s) => s.surround);
  const { data: evidence } = useEvidence(frame);
  const map = overlays.map ? (evidence ?? null) : null;
  const [arrivals, setArrivals] = useState(0);
  const [quality, setQuality] = useState<Quality | null>(null);
  useEffect(() => {
    const note = (id: number) => id === frame.id && setArrivals((n) => n + 1);
    const ends = [pictures.listen(note), onOverlay(note)];
    return () => {
      for (const end of ends) end();
    };
  }, [frame.id]);
  // Draw before the browser paints: the key press and the new picture are one paint apart.
  // biome-ignore lint/correctness/useExhaustiveDependencies: an arrival means that there is more to draw
  useLayoutEffect(() => {
    if (!canvas.current || !size.width) return;
    const now = draw(canvas.current, frame, size, zoom, overlays, map);
    setQuality(now);
    onDrawn(frame.id, now);
  }, [frame, size, zoom.scale, zoom.x, zoom.y, arrivals, map, overlays, surround, onDrawn]);
  return quality;
}

/** Mouse and fingers: where the pictures are looked at. */
function useLooking(surface: React.RefObject<HTMLDivElement | null>, props: Props, zoom: Zoom) {
  const { frame, size, active, found, chosenIn, onSwipe, onActivate } = props;
  const picture = sizeOf(frame);
  // Several things may happen before the next drawing: each goes on from where the one before it led.
  const now = () => {
    const { aim } = useAim.getState();
    return { aim, zoom: zoomOf(aim, { frame, found, chosenIn }) };
  };
  const held = (aim: Aim) => heldIn(aim, zoomOf(aim, { frame, found, chosenIn }), picture, size);
  useGestures(surface, zoom.scale !== "fit", {
    onTap: (at, twice, touch, time) => {
      if (twice || (active && !touch)) toggleZoomAt(frame, size, now().zoom, at, time);
      else if (!active) onActivate(time);
    },
    onDrag: (by, alone) => {
      const { aim } = now();
      if (aim.scale === "fit") return;
      const moved = dragged(aim, frame.id, aim.scale, by.x, by.y, alone);
      setAim(alone ? moved : held(moved));
    },
    onScale: (factor, at) => {
      const { aim, zoom } = now();
      const middle = { x: picture.width / 2, y: picture.height / 2 };
      const first =
        aim.scale === "fit"
          ? { ...aim, frame: frame.id, point: middle, subject: false, offsets: new Map() }
          : aim;
      setAim(held(scaled(first, factor, picture, size, place(picture, size, zoom), at)));
    },
    onSwipe,
    onHover: (at) => {
      const share = at && pointAt(place(picture, size, now().zoom), at.x, at.y);
      const point = share && { x: share.x * picture.width, y: share.y * picture.height };
      usePointer.setState({ frame: point ? frame.id : null, point });
    },
  });
}

/** To 100 % at a place of a cell, and back. */
function toggleZoomAt(frame: Frame, cell: Size, zoom: Zoom, at: { x: number; y: number }, time: number) {
  const picture = sizeOf(frame);
  const share = pointAt(place(picture, cell, zoom), at.x, at.y);
  const { aim } = useAim.getState();
  if (zoom.scale !== "fit") setAim({ ...aim, scale: "fit" });
  else aimAt(frame.id, { x: share.x * picture.width, y: share.y * picture.height }, 1, false, time);
}

function Problem({ frame }: { frame: Frame }) {
  return (
    <div role="alert" className="absolute inset-0 grid place-items-center p-4 text-center">
      <p className="max-w-md">
        <b className="block pb-1 font-semibold">{frame.name} cannot be shown</b>
        <span className="text-ink2">{frame.problem}</span>
      </p>
    </div>
  );
}

function AsideButton({ frame }: { frame: Frame }) {
  return (
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
  );
}
