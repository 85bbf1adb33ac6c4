import { memo, useCallback, useLayoutEffect, useMemo, useRef, useState } from "react";
import type { Frame } from "../api/client";
import { usePointsShown, useShout } from "../keys/useKeys";
import { shown as measured } from "../perf";
import { mark } from "../shoot/marking";
import { activate, groupNeighbour } from "../shoot/moving";
import { useShoot } from "../shoot/store";
import { type Found, WHOLE } from "./aim";
import { arrange } from "./arrange";
import { Cell } from "./Cell";
import { FrameMenu } from "./FrameMenu";
import type { Quality } from "./pictures";
import { Strip } from "./Strip";
import { aimAt, pointer, setAim, stageNeighbour, useStage } from "./stageStore";
import { STRIP } from "./tiling";
import { useEvidence } from "./useEvidence";
import { useFollow } from "./useFollow";
import { useReady } from "./useReady";
import { useSlots } from "./useSlots";
import { type Size, sizeOf } from "./zoom";

/** Room for the ring around the active frame, CSS px. */
const RING = 4;

/** The frames that are compared, side by side, as large as the room allows. `bare`: pictures only. */
export function Stage({ frame: active, bare }: { frame: Frame; bare: boolean }) {
  const box = useRef<HTMLDivElement>(null);
  const room = useRoom(box);
  const frames = useShoot((s) => s.frames);
  const visible = useShoot((s) => s.visible);
  const stage = useStage();
  const zoomed = stage.aim.scale !== "fit";
  // biome-ignore lint/correctness/useExhaustiveDependencies: much else of either state changes; only these count
  const arrangement = useMemo(
    () => (room.width ? arrange(useShoot.getState(), stage, active.id, room, bare) : null),
    [
      frames,
      visible,
      stage.layout,
      stage.chosen,
      stage.aside,
      stage.keptOnly,
      stage.holder,
      stage.challenger,
      stage.blink,
      zoomed,
      active.id,
      room,
      bare,
    ],
  );
  const cells = arrangement?.shown ?? [];
  const key = cells.map(({ frame, size }) => `${frame.id} ${size.width}`).join();
  const subject = useSubject(active);
  const chosenIn = stage.aim.frame === null ? undefined : frames.get(stage.aim.frame);
  useFollow(
    cells.map(({ frame }) => frame),
    active,
    subject,
  );
  useAimKept(
    active,
    cells.map(({ frame }) => frame),
    subject,
  );
  // biome-ignore lint/correctness/useExhaustiveDependencies: neighbours follow from the key
  const next = useMemo(() => {
    if (!room.width) return [];
    const step = stage.layout === "group" ? groupNeighbour(1) : stageNeighbour(1);
    const back = stage.layout === "group" ? groupNeighbour(-1) : stageNeighbour(-1);
    const after = [step, back].filter((id) => id !== null && id !== active.id) as number[];
    const more = stage.layout === "one" ? near(active.id, 8) : [];
    const whole = { ...useStage.getState(), aim: WHOLE };
    return [...after, ...more].flatMap((id) => arrange(useShoot.getState(), whole, id, room, bare).shown);
  }, [key, room, bare, active.id, stage.layout]);
  useReady(cells, next, zoomed, key);
  const drawn = useDrawn(
    cells.map(({ frame }) => frame.id),
    active.id,
    zoomed,
  );

  const turned = useTurned(zoomed);
  const slots = useSlots(cells.map(({ frame }) => frame.id));

  const zoomTo = useCallback(
    (scale: number, time = performance.now()) => {
      const { aim } = useStage.getState();
      if (aim.scale === scale) return setAim({ ...aim, scale: "fit" });
      if (aim.scale !== "fit") return setAim({ ...aim, scale });
      const over = pointer.frame === active.id ? pointer.point : null;
      const { width, height } = sizeOf(active);
      aimAt(active.id, over ?? subject ?? { x: width / 2, y: height / 2 }, scale, !over, time);
    },
    [active, subject],
  );
  useShout(
    "zoom",
    useCallback(() => zoomTo(1), [zoomTo]),
  );
  useShout(
    "zoom-more",
    useCallback(() => zoomTo(2), [zoomTo]),
  );
  usePointsShown(
    useCallback(
      (point) => {
        const { aim } = useStage.getState();
        aimAt(active.id, point, aim.scale === "fit" ? 1 : aim.scale, false, performance.now());
      },
      [active.id],
    ),
  );
  const front = stage.blink && stage.layout === "two";
  return (
    <div ref={box} className="relative min-h-0 min-w-0 flex-1 overflow-hidden" data-testid="stage">
      {cells.map(({ frame, tile, size }) => {
        const slot = slots.get(frame.id);
        const isActive = frame.id === active.id;
        return (
          <OnStage
            key={slot?.key}
            frame={frame}
            left={tile.left + RING}
            top={tile.top + RING}
            width={tile.width}
            height={tile.height}
            pixelWidth={size.width}
            pixelHeight={size.height}
            moves={!front && !turned && (slot?.stays ?? false)}
            active={isActive}
            ringed={isActive && cells.length > 1 && !front}
            hidden={front && !isActive}
            bare={bare}
            found={stage.follow ? stage.found.get(frame.id) : undefined}
            chosenIn={chosenIn}
            drawn={drawn}
          />
        );
      })}
    </div>
  );
}

interface OnStageProps {
  frame: Frame;
  left: number;
  top: number;
  width: number;
  height: number;
  pixelWidth: number;
  pixelHeight: number;
  /** Goes to its new place with a short movement. A zoom does not wait for one. */
  moves: boolean;
  active: boolean;
  ringed: boolean;
  hidden: boolean;
  bare: boolean;
  found: Found | undefined;
  chosenIn: Frame | undefined;
  drawn: (id: number, quality: Quality | null) => void;
}

/** One frame with what stands under it; made anew only when something of its own changes. */
const OnStage = memo(function OnStage(props: OnStageProps) {
  const { frame, left, top, width, height, pixelWidth, pixelHeight, active, bare } = props;
  const size = useMemo(() => ({ width: pixelWidth, height: pixelHeight }), [pixelWidth, pixelHeight]);
  return (
    <FrameMenu frame={frame}>
      <div
        className={`absolute ${props.moves ? "transition-[left,top,width,height] duration-150" : ""}`}
        style={{
          left,
          top,
          width,
          height: height + (bare ? 0 : STRIP),
          visibility: props.hidden ? "hidden" : "visible",
        }}
      >
        <div
          className={`group relative ${props.ringed ? "outline-2 outline-offset-2 outline-straw" : ""} ${frame.decision === "reject" ? "rejected" : ""}`}
          style={{ height }}
        >
          <Cell
            frame={frame}
            size={size}
            active={active}
            found={props.found}
            chosenIn={props.chosenIn}
            drawn={props.drawn}
            onSwipe={(way, time) => swiped(frame.id, way, time)}
            onActivate={(time) => activate(frame.id, time)}
          />
        </div>
        {!bare && <Strip frame={frame} width={width} active={active} />}
      </div>
    </FrameMenu>
  );
});

function swiped(id: number, way: "up" | "down" | "left" | "right", time: number) {
  if (way === "up") mark({ decision: "pick" }, time, [id]);
  else if (way === "down") mark({ decision: "reject" }, time, [id]);
  else activate(stageNeighbour(way === "left" ? 1 : -1), time);
}

/** Frames on either side, nearest first. */
function near(id: number, count: number): number[] {
  const { visible, places } = useShoot.getState();
  const at = places.get(id) ?? 0;
  return visible.slice(at + 2, at + 2 + count);
}

function useRoom(box: React.RefObject<HTMLDivElement | null>): Size {
  const [room, setRoom] = useState<Size>({ width: 0, height: 0 });
  useLayoutEffect(() => {
    const element = box.current;
    if (!element) return;
    const measure = () => {
      const found = { width: element.clientWidth - 2 * RING, height: element.clientHeight - 2 * RING };
      setRoom((before) => (before.width === found.width && before.height === found.height ? before : found));
    };
    measure();
    const observer = new ResizeObserver(measure);
    observer.observe(element);
    return () => observer.disconnect();
  }, [box]);
  return room;
}

/** Whether something is not as it was at the last drawing. */
function useTurned(now: boolean): boolean {
  const before = useRef(now);
  useLayoutEffect(() => {
    before.current = now;
  });
  return before.current !== now;
}

/** What the frame is about: an eye, the camera's own point or the sharpest place. */
function useSubject(frame: Frame) {
  const { data } = useEvidence(frame);
  const found = data?.focus?.subject;
  const x = found?.x ?? null;
  const y = found?.y ?? null;
  return useMemo(() => (x === null || y === null ? null : { x, y }), [x, y]);
}

/** The zoom stays from group to group: on the subject of the new one, or at the same relative place. */
function useAimKept(active: Frame, onStage: Frame[], subject: { x: number; y: number } | null) {
  const aim = useStage((s) => s.aim);
  const waiting = useRef<number | null>(null);
  const here = aim.frame === null || onStage.some((frame) => frame.id === aim.frame);
  useLayoutEffect(() => {
    if (aim.scale === "fit") return;
    const group = useShoot.getState().frames.get(aim.frame ?? -1)?.group;
    if (!here && group !== active.group) {
      const before = useShoot.getState().frames.get(aim.frame ?? -1);
      const [was, is] = [before ? sizeOf(before) : sizeOf(active), sizeOf(active)];
      const same = { x: (aim.point.x / was.width) * is.width, y: (aim.point.y / was.height) * is.height };
      waiting.current = aim.subject && !subject ? active.id : null;
      aimAt(active.id, aim.subject && subject ? subject : same, aim.scale, aim.subject);
    } else if (waiting.current === active.id && aim.frame === active.id && subject) {
      waiting.current = null;
      aimAt(active.id, subject, aim.scale, true);
    }
  }, [aim, here, active, subject]);
}

/** Tells when all that is on the stage is drawn. */
function useDrawn(ids: number[], active: number, zoomed: boolean) {
  const state = useRef(new Map<number, Quality | null>());
  const now = useRef({ ids, active, zoomed });
  now.current = { ids, active, zoomed };
  return useCallback((id: number, quality: Quality | null) => {
    state.current.set(id, quality);
    const { ids: all, active: front, zoomed: close } = now.current;
    if (id === front && quality && quality !== "small") measured("winnow:show-frame", id);
    const least = (good: (quality: Quality) => boolean) =>
      all.every((one) => {
        const its = state.current.get(one);
        return its !== undefined && (its === null || good(its));
      });
    if (!least((its) => its !== "small")) return;
    measured("winnow:show-group", front);
    if (close) measured("winnow:zoom-preview", front);
    if (close && least((its) => its === "full")) measured("winnow:zoom-pixels", front);
  }, []);
}
