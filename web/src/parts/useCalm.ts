import { useEffect, useState } from "react";

const CALM_MS = 90;

/** A value that follows another once that has kept still for a moment, so that what stands beside the pictures never
 * holds them up. */
export function useCalm<T>(value: T): T {
  const [calm, setCalm] = useState(value);
  useEffect(() => {
    if (Object.is(value, calm)) return;
    const timer = setTimeout(() => setCalm(() => value), CALM_MS);
    return () => clearTimeout(timer);
  }, [value, calm]);
  return calm;
}
