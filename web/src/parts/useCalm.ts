import { useEffect, useState } from "react";

const CALM_MS = 90;

/** A value that follows another once that has kept still for a moment, so that what stands beside the pictures never
 * holds them up. `same`: changes within one thing are followed at once. */
export function useCalm<T>(value: T, same: (one: T, other: T) => boolean = Object.is): T {
  const [calm, setCalm] = useState(value);
  const at = same(value, calm);
  useEffect(() => {
    if (at) return;
    const timer = setTimeout(() => setCalm(value), CALM_MS);
    return () => clearTimeout(timer);
  }, [value, at]);
  return at ? value : calm;
}
