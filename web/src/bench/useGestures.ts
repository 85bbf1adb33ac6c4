/** Mouse, pen and touch over a picture, as what they mean. Lengths are device pixels within the element. */

import { useEffect, useRef } from "react";
import type { Point } from "./aim";

export interface Gestures {
  /** Pressed and let go in place. `twice`: the second time shortly after. */
  tap: (at: Point, twice: boolean, touch: boolean, time: number) => void;
  drag: (by: Point, alone: boolean) => void;
  /** Wheel, pinch: larger by a factor about a place. */
  scale: (factor: number, at: Point) => void;
  /** A finger over a picture that is not zoomed. */
  swipe: (way: "up" | "down" | "left" | "right", time: number) => void;
  hover: (at: Point | null) => void;
}

const SLOP_PX = 6;
const TWICE_MS = 320;
const SWIPE_PX = 48;
const WHEEL_STEP = 0.0016;

export function useGestures(
  element: React.RefObject<HTMLElement | null>,
  zoomed: boolean,
  heard: Gestures,
): React.HTMLAttributes<HTMLElement> {
  const down = useRef(new Map<number, Point>());
  const start = useRef<{ at: Point; moved: boolean; pinched: boolean } | null>(null);
  const lastTap = useRef(0);
  const latest = useRef(heard);
  latest.current = heard;

  const where = (event: { clientX: number; clientY: number }): Point => {
    const ratio = window.devicePixelRatio || 1;
    const bounds = element.current?.getBoundingClientRect();
    return {
      x: (event.clientX - (bounds?.left ?? 0)) * ratio,
      y: (event.clientY - (bounds?.top ?? 0)) * ratio,
    };
  };

  // React listens to the wheel passively, and the page must not scroll or zoom.
  // biome-ignore lint/correctness/useExhaustiveDependencies: where and latest are always the newest
  useEffect(() => {
    const target = element.current;
    const onWheel = (event: WheelEvent) => {
      event.preventDefault();
      const lines = event.deltaMode === WheelEvent.DOM_DELTA_LINE ? 30 : 1;
      latest.current.scale(Math.exp(-event.deltaY * lines * WHEEL_STEP), where(event));
    };
    target?.addEventListener("wheel", onWheel, { passive: false });
    return () => target?.removeEventListener("wheel", onWheel);
  }, [element]);

  return {
    onPointerDown: (event) => {
      if (event.button !== 0) return;
      event.currentTarget.setPointerCapture(event.pointerId);
      down.current.set(event.pointerId, where(event));
      if (down.current.size === 1) start.current = { at: where(event), moved: false, pinched: false };
      else if (start.current) start.current.pinched = true;
    },
    onPointerMove: (event) => {
      const now = where(event);
      heard.hover(now);
      const before = down.current.get(event.pointerId);
      const begun = start.current;
      if (!before || !begun) return;
      if (Math.hypot(now.x - begun.at.x, now.y - begun.at.y) > SLOP_PX) begun.moved = true;
      const other = [...down.current].find(([id]) => id !== event.pointerId)?.[1];
      down.current.set(event.pointerId, now);
      if (other) {
        const apart = (p: Point) => Math.hypot(p.x - other.x, p.y - other.y);
        const middle = { x: (now.x + other.x) / 2, y: (now.y + other.y) / 2 };
        heard.scale(apart(now) / Math.max(1, apart(before)), middle);
        heard.drag({ x: (now.x - before.x) / 2, y: (now.y - before.y) / 2 }, false);
      } else if (begun.moved && zoomed) {
        heard.drag({ x: now.x - before.x, y: now.y - before.y }, event.altKey);
      }
    },
    onPointerUp: (event) => {
      const begun = start.current;
      const now = where(event);
      down.current.delete(event.pointerId);
      if (!begun || down.current.size) return;
      start.current = null;
      const touch = event.pointerType !== "mouse";
      if (begun.pinched) return;
      if (!begun.moved) {
        const twice = event.timeStamp - lastTap.current < TWICE_MS;
        lastTap.current = twice ? 0 : event.timeStamp;
        heard.tap(now, twice, touch, event.timeStamp);
      } else if (touch && !zoomed) {
        const dx = now.x - begun.at.x;
        const dy = now.y - begun.at.y;
        if (Math.max(Math.abs(dx), Math.abs(dy)) < SWIPE_PX) return;
        if (Math.abs(dy) > Math.abs(dx)) heard.swipe(dy < 0 ? "up" : "down", event.timeStamp);
        else heard.swipe(dx < 0 ? "left" : "right", event.timeStamp);
      }
    },
    onPointerCancel: (event) => {
      down.current.delete(event.pointerId);
      start.current = null;
    },
    onPointerLeave: () => heard.hover(null),
  };
}
