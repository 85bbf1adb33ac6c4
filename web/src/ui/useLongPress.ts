import { type PointerEvent, useRef, useState } from "react";

/** A finger that rests this long means more than a tap, ms; one that moves this far scrolls, px. */
const LONG_MS = 450;
const SLOP_PX = 10;

/** Tells a finger that rests on an element from one that taps it. */
export function useLongPress(onLong: () => void) {
  const [touched, setTouched] = useState(false);
  const state = useRef({ timer: 0, long: false, x: 0, y: 0 });
  const end = () => window.clearTimeout(state.current.timer);
  const handlers = {
    onPointerDown: ({ pointerType, clientX, clientY }: PointerEvent) => {
      const isTouch = pointerType === "touch";
      setTouched(isTouch);
      Object.assign(state.current, { long: false, x: clientX, y: clientY });
      if (!isTouch) return;
      end();
      state.current.timer = window.setTimeout(() => {
        state.current.long = true;
        onLong();
      }, LONG_MS);
    },
    onPointerMove: ({ clientX, clientY }: PointerEvent) => {
      const { x, y } = state.current;
      if (Math.hypot(clientX - x, clientY - y) > SLOP_PX) end();
    },
    onPointerUp: end,
    onPointerCancel: end,
    // The browser would open its menu over the picture.
    onContextMenu: (event: { preventDefault: () => void }) => touched && event.preventDefault(),
  };
  return {
    handlers,
    /** The last to press it was a finger. */
    touched,
    /** The press that is ending was a long one: the click that follows it means nothing. */
    wasLong: () => state.current.long,
  };
}
