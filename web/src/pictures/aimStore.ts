/** Where the pictures are looked at now, and where the pointer is over them. */

import { create } from "zustand";
import { asked } from "../ui/timing";
import { type Aim, type Found, type Point, WHOLE } from "./aim";

interface AimState {
  aim: Aim;
  /** Where other frames show the point that is looked at. */
  found: Map<number, Found>;
  /** Where they show what the first zoom would look at. */
  ahead: Map<number, Found>;
}

export const useAim = create<AimState>(() => ({ aim: WHOLE, found: new Map(), ahead: new Map() }));

const { getState: get, setState: set } = useAim;

export function setAim(aim: Aim) {
  set({ aim });
}

/** Undoes all moving about. */
export function resetOffsets() {
  set({ aim: { ...get().aim, offsets: new Map(), drift: { x: 0, y: 0 } } });
}

/** Looks at a point of a frame (px of the full picture) at a scale. */
export function aimAt(frame: number, point: Point, scale: number | "fit", subject: boolean, at?: number) {
  if (at !== undefined && scale !== "fit") {
    asked("winnow:zoom-preview", at, frame);
    asked("winnow:zoom-pixels", at, frame);
  }
  const { aim, found } = get();
  const same = aim.frame === frame && aim.point.x === point.x && aim.point.y === point.y;
  set({
    aim: { scale, frame, point, subject, drift: { x: 0, y: 0 }, offsets: same ? aim.offsets : new Map() },
    found: same ? found : new Map(),
  });
}

/** Looks at a point of a frame close up: as close as it is, at 100 % if the whole is shown. */
export function lookClose(frame: number, point: Point, at: number) {
  const { scale } = get().aim;
  aimAt(frame, point, scale === "fit" ? 1 : scale, false, at);
}

/** Over which frame the pointer is, and at which point of it (px of the full picture). */
export const usePointer = create<{ frame: number | null; point: Point | null }>(() => ({
  frame: null,
  point: null,
}));
