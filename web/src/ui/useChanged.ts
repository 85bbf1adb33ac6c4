import { useLayoutEffect, useRef } from "react";

/** Whether a value is not what it was at the last drawing. */
export function useChanged<T>(now: T): boolean {
  const before = useRef(now);
  useLayoutEffect(() => {
    before.current = now;
  });
  return before.current !== now;
}
