import { useLayoutEffect, useMemo, useRef, useState } from "react";
import { useShallow } from "zustand/react/shallow";
import type { Frame } from "../../api/client";
import { useAim } from "../../pictures/aimStore";
import type { Size } from "../../pictures/zoom";
import { useEvidence } from "../../shoot/evidence";
import { line } from "../../shoot/line";
import { groupNeighbour } from "../../shoot/moving";
import { useChosen } from "../../shoot/stage";
import { type ShootState, useShoot } from "../../shoot/store";
import { useSettings } from "../../ui/settings";
import { useChanged } from "../../ui/useChanged";
import { useRatio } from "../../ui/useRatio";
import { type Arrangement, arrange, type Shown, type Stage as StageOf } from "./arrange";
import { stageNeighbour } from "./compared";
import { StageFrame } from "./StageFrame";
import { useStage } from "./stageStore";
import type { Tile } from "./tiling";
import { useAimKept } from "./useAimKept";
import { useDrawn } from "./useDrawn";
import { useFollow } from "./useFollow";
import { type Next, useReady } from "./useReady";
import { useSlots } from "./useSlots";

/** Left free around the pictures for the ring of the active one, CSS px. */
const RING = 4;
/** Frames after the next that are made ready where one is shown at a time: where the camera put no preview into the file,
 * ours takes most of a second to make. */
const AHEAD = 20;

/** The frames that are compared, side by side, as large as the stage allows. `bare`: pictures only. */
export function Stage({ frame: active, bare }: { frame: Frame; bare: boolean }) {
  const box = useRef<HTMLDivElement>(null);
  const size = useSize(box);
  const stage = useStageOf(size, bare);
  const { zoomed } = stage;
  const cells = useCells(stage, active.id);
  const onStage = cells.map(({ frame }) => frame);
  const ids = onStage.map(({ id }) => id);
  // A picture made for another size is another picture: while focus is judged, none that was rescaled may stand in.
  const key = cells.map(({ frame, size }) => `${frame.id} ${size.width} ${size.height}`).join();
  const subject = useSubject(active);
  const found = useAim((s) => s.found);
  const aimFrame = useAim((s) => s.aim.frame);
  const chosenIn = useShoot((s) => (aimFrame === null ? undefined : s.frames.get(aimFrame)));
  const follow = useSettings((s) => s.follow);
  useFollow(onStage, active, subject);
  useAimKept(active, onStage, subject);
  useReady(cells, useNext(stage, active.id, key), zoomed, key);
  const onDrawn = useDrawn(ids, active.id, zoomed);
  const isOtherZoom = useChanged(zoomed);
  const slots = useSlots(ids);
  const inOneSpot = stage.blink && stage.layout === "two";
  return (
    <div ref={box} className="relative min-h-0 min-w-0 flex-1 overflow-hidden" data-testid="stage">
      {cells.map(({ frame, tile, size: pixels }) => {
        const slot = slots.get(frame.id);
        const isActive = frame.id === active.id;
        return (
          <StageFrame
            key={slot?.key}
            frame={frame}
            left={tile.left + RING}
            top={tile.top + RING}
            width={tile.width}
            height={tile.height}
            pixelWidth={pixels.width}
            pixelHeight={pixels.height}
            moves={!inOneSpot && !isOtherZoom && (slot?.stays ?? false)}
            active={isActive}
            ringed={isActive && cells.length > 1 && !inOneSpot}
            hidden={inOneSpot && !isActive}
            bare={bare}
            found={follow ? found.get(frame.id) : undefined}
            chosenIn={chosenIn}
            onDrawn={onDrawn}
          />
        );
      })}
    </div>
  );
}

/** All that says what stands on the stage and where, but for the frames themselves. */
function useStageOf(size: Size, bare: boolean): StageOf {
  const stage = useStage(
    useShallow(({ layout, aside, keptOnly, holder, challenger, blink }) => ({
      layout,
      aside,
      keptOnly,
      holder,
      challenger,
      blink,
    })),
  );
  const chosen = useChosen((s) => s.chosen);
  const zoomed = useAim((s) => s.aim.scale !== "fit");
  const ratio = useRatio();
  return useMemo(
    () => ({ ...stage, chosen, zoomed, size, ratio, bare }),
    [stage, chosen, zoomed, size, ratio, bare],
  );
}

const NOTHING: Arrangement = { shown: [], length: 1 };

/** What stands on the stage: another only where something of that changes, not with every frame of the shoot. */
function useCells(stage: StageOf, active: number): Shown[] {
  const select = useMemo(() => {
    let before = NOTHING;
    return (shoot: ShootState) => {
      const now = stage.size.width ? arrange(shoot, stage, active) : NOTHING;
      if (!isSame(now, before)) before = now;
      return before;
    };
  }, [stage, active]);
  const { shown, length } = useShoot(select);
  useLayoutEffect(() => useStage.setState({ length }), [length]);
  return shown;
}

function isSame(one: Arrangement, other: Arrangement): boolean {
  if (one.length !== other.length || one.shown.length !== other.shown.length) return false;
  return one.shown.every(({ frame, tile, size }, at) => {
    const there = other.shown[at];
    return frame === there?.frame && isSameTile(tile, there.tile) && size.width === there.size.width;
  });
}

function isSameTile(one: Tile, other: Tile): boolean {
  return (
    one.left === other.left &&
    one.top === other.top &&
    one.width === other.width &&
    one.height === other.height
  );
}

/** The frames of the steps that are likely next, and what these would put on the stage: that is worked out when the
 * pictures of now are drawn. `key`: what stands there now. */
function useNext(stage: StageOf, active: number, key: string): Next {
  const { layout, size, bare } = stage;
  // biome-ignore lint/correctness/useExhaustiveDependencies: neighbours follow from the key
  return useMemo(() => {
    if (!size.width) return { ids: [], shown: () => [] };
    const steps =
      layout === "group" ? [groupNeighbour(1), groupNeighbour(-1)] : [stageNeighbour(1), stageNeighbour(-1)];
    const near = steps.filter((id) => id !== null && id !== active) as number[];
    const further = layout === "one" ? framesAfter(active) : [];
    const unzoomed = { ...stage, zoomed: false };
    const ids = [...near, ...further];
    const shown = () => ids.flatMap((id) => arrange(useShoot.getState(), inStead(unzoomed, id), id).shown);
    return { ids, shown };
  }, [key, size, bare, active, layout]);
}

/** The stage when another frame is active: in the two-frame layout it is the one that challenges. */
function inStead(stage: StageOf, active: number): StageOf {
  return stage.layout === "two" ? { ...stage, challenger: active } : stage;
}

function framesAfter(id: number): number[] {
  const { ids, places } = line();
  const at = (places.get(id) ?? 0) + 2;
  return ids.slice(at, at + AHEAD);
}

/** What there is for pictures in an element, CSS px. */
function useSize(box: React.RefObject<HTMLDivElement | null>): Size {
  const [size, setSize] = useState<Size>({ width: 0, height: 0 });
  useLayoutEffect(() => {
    const element = box.current;
    if (!element) return;
    const measure = () => {
      const found = { width: element.clientWidth - 2 * RING, height: element.clientHeight - 2 * RING };
      setSize((before) => (before.width === found.width && before.height === found.height ? before : found));
    };
    measure();
    const observer = new ResizeObserver(measure);
    observer.observe(element);
    return () => observer.disconnect();
  }, [box]);
  return size;
}

/** What the frame is about: an eye, the camera's own point or the sharpest place. */
function useSubject(frame: Frame) {
  const { data } = useEvidence(frame);
  const found = data?.focus?.subject;
  const x = found?.x ?? null;
  const y = found?.y ?? null;
  return useMemo(() => (x === null || y === null ? null : { x, y }), [x, y]);
}
