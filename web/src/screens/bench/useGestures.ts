/** Mouse, pen and touch over a picture, as what they mean. Lengths are device pixels within the element. */

import "./touchScreens";
import { useGesture } from "@use-gesture/react";
import { useRef } from "react";
import type { Point } from "../../pictures/aim";

export type Way = "up" | "down" | "left" | "right";

export interface Gestures {
  /** Pressed and let go in place. `twice`: the second time shortly after. */
  onTap: (at: Point, twice: boolean, touch: boolean, time: number) => void;
  onDrag: (by: Point, alone: boolean) => void;
  /** Wheel, pinch: larger by a factor about a place. */
  onScale: (factor: number, at: Point) => void;
  /** A finger over a picture that is not zoomed. */
  onSwipe: (way: Way, time: number) => void;
  onHover: (at: Point | null) => void;
}

const SLOP_PX = 6;
const TWICE_MS = 320;
const SWIPE_PX = 48;
const WHEEL_STEP = 0.0016;

interface Pinch {
  scale: number;
  at: Point;
}

export function useGestures(
  element: React.RefObject<HTMLElement | null>,
  zoomed: boolean,
  { onTap, onDrag, onScale, onSwipe, onHover }: Gestures,
) {
  const lastTap = useRef(0);
  const ratio = window.devicePixelRatio || 1;
  const within = ([x, y]: [number, number]): Point => {
    const bounds = element.current?.getBoundingClientRect();
    return { x: (x - (bounds?.left ?? 0)) * ratio, y: (y - (bounds?.top ?? 0)) * ratio };
  };
  const isTouch = (event: unknown) => (event as PointerEvent).pointerType !== "mouse";

  /** Follows the hand from where it set out, once it has plainly moved. `done`: how far it was followed. */
  const moveOn = (moved: Point, done: Point | undefined, alone: boolean): Point | undefined => {
    if (!done && Math.hypot(moved.x, moved.y) <= SLOP_PX) return undefined;
    const from = done ?? { x: 0, y: 0 };
    onDrag({ x: (moved.x - from.x) * ratio, y: (moved.y - from.y) * ratio }, alone);
    return moved;
  };

  useGesture(
    {
      onDrag: ({ event, tap, last, pinching, cancel, canceled, xy, movement: [dx, dy], memo }) => {
        const { timeStamp, altKey } = event as PointerEvent;
        if (pinching) return cancel();
        if (canceled) return undefined;
        if (tap) {
          const twice = timeStamp - lastTap.current < TWICE_MS;
          lastTap.current = twice ? 0 : timeStamp;
          onTap(within(xy), twice, isTouch(event), timeStamp);
        } else if (zoomed) return moveOn({ x: dx, y: dy }, memo, altKey);
        else if (last && isTouch(event) && Math.max(Math.abs(dx), Math.abs(dy)) * ratio >= SWIPE_PX) {
          if (Math.abs(dy) > Math.abs(dx)) onSwipe(dy < 0 ? "up" : "down", timeStamp);
          else onSwipe(dx < 0 ? "left" : "right", timeStamp);
        }
        return undefined;
      },
      onPinch: ({ origin, movement: [scale], first, memo }) => {
        const at = within(origin);
        const before: Pinch = first || !memo ? { scale: 1, at } : memo;
        onScale(scale / before.scale, at);
        onDrag({ x: at.x - before.at.x, y: at.y - before.at.y }, false);
        return { scale, at } satisfies Pinch;
      },
      onWheel: ({ event, delta: [, dy] }) => {
        event.preventDefault();
        // With Ctrl it is how a touchpad tells of a pinch.
        if (!event.ctrlKey) onScale(Math.exp(-dy * WHEEL_STEP), within([event.clientX, event.clientY]));
      },
      onMove: ({ xy, hovering }) => onHover(hovering === false ? null : within(xy)),
      onHover: ({ hovering }) => {
        if (!hovering) onHover(null);
      },
    },
    {
      target: element,
      // The page must neither scroll nor zoom itself.
      eventOptions: { passive: false },
      drag: { filterTaps: true, tapsThreshold: SLOP_PX, threshold: 0, pointer: { keys: false } },
      pinch: { pinchOnWheel: true },
    },
  );
}
