import { useEffect, useState } from "react";
import type { StoreApi } from "zustand";

const CALM_MS = 90;

/** A part of a store that follows it once that has kept still for a moment, so that what stands beside the pictures
 * never holds them up. `select` must be the same function at every call. */
export function useCalm<S, T>(store: StoreApi<S>, select: (state: S) => T): T {
  const [calm, setCalm] = useState(() => select(store.getState()));
  useEffect(() => {
    let timer: ReturnType<typeof setTimeout> | undefined;
    const follow = () => setCalm(() => select(store.getState()));
    follow();
    const stop = store.subscribe((now, before) => {
      if (Object.is(select(now), select(before))) return;
      clearTimeout(timer);
      timer = setTimeout(follow, CALM_MS);
    });
    return () => {
      clearTimeout(timer);
      stop();
    };
  }, [store, select]);
  return calm;
}
