/** Where each shoot was left: the next time it is opened in this browser, it opens there. */

import { create } from "zustand";
import { persist } from "zustand/middleware";
import { useShoot } from "./store";

const usePlaces = create<{ frames: Record<number, number> }>()(
  persist(() => ({ frames: {} }), { name: "winnow.places" }),
);

/** Not at every step: what is kept is written to the disk. */
const RESTED_MS = 300;

let timer: ReturnType<typeof setTimeout> | undefined;

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
