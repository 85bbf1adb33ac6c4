/** Where each shoot was left: the next time it is opened in this browser, it opens there. */

import { create } from "zustand";
import { persist } from "zustand/middleware";
import { useShoot } from "./store";

interface Places {
  frames: Record<number, number>;
  /** The sentence of the filter that each shoot was left with. */
  filters?: Record<number, string>;
}

const usePlaces = create<Places>()(
  persist((): Places => ({ frames: {}, filters: {} }), { name: "winnow.places" }),
);

/** Not at every step: what is kept is written to the disk. */
const RESTED_MS = 300;

let timer: ReturnType<typeof setTimeout> | undefined;

useShoot.subscribe(({ shootId, filter, loaded }, before) => {
  if (!loaded || shootId !== before.shootId || filter.show === before.filter.show) return;
  usePlaces.setState({ filters: { ...usePlaces.getState().filters, [shootId]: filter.show } });
  useShoot.setState({ filterCameBack: false });
});

useShoot.subscribe(({ active }, before) => {
  if (active === null || active === before.active) return;
  clearTimeout(timer);
  timer = setTimeout(keep, RESTED_MS);
});
window.addEventListener("pagehide", keep);

function keep() {
  const { shootId, active } = useShoot.getState();
  if (active !== null) setPlace(shootId, active);
}

/** A shoot that is opened next is opened at this frame. */
export function setPlace(shootId: number, frame: number) {
  usePlaces.setState({ frames: { ...usePlaces.getState().frames, [shootId]: frame } });
}

/** The frame of a shoot that was looked at last, or null. */
export function placeOf(shootId: number): number | null {
  return usePlaces.getState().frames[shootId] ?? null;
}

/** The sentence of the filter that a shoot was left with; empty: none. */
export function filterLeft(shootId: number): string {
  return usePlaces.getState().filters?.[shootId] ?? "";
}
