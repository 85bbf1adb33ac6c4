/** The shoot on screen: what of it is known here, and where the person is in it. Other modules change it, each its
 * part. */

import { create } from "zustand";
import type { ActionRef, ApiError, Frame, Progress, View } from "../api/client";
import { EVERYTHING, type Filter } from "./filter";

export interface ShootState {
  shootId: number;
  revision: number;
  /** Its frames and what is in view of them are here. */
  loaded: boolean;
  /** More of its frames are on their way than those that are shown already. */
  arriving: boolean;
  /** Why it could not be opened. */
  failure: ApiError | null;
  /** As they are shown: marks that wait for the server included. */
  frames: Map<number, Frame>;
  /** Grows when a frame changes its shape or place: a mark must not lay out the wall anew. */
  geometry: number;
  /** The counts of the last answer, brought up to what is shown; null before the first. */
  view: Omit<View, "ids"> | null;
  /** Ids in view, in capture order: those that pass the filter, and those that are leaving. */
  visible: number[];
  /** Place of each visible id in `visible`. */
  places: Map<number, number>;
  /** Frames in view that no longer pass the filter: they leave when the person goes on. */
  leaving: ReadonlySet<number>;
  filter: Filter;
  /** Off: the filter is kept but everything is shown. */
  filterOn: boolean;
  /** The filter is the one that the shoot was left with, and nobody has changed it yet. */
  filterCameBack: boolean;
  active: number | null;
  /** Of the wall; nowhere else is it the scope. */
  selection: ReadonlySet<number>;
  /** Where a range selection starts. */
  anchor: number | null;
  /** What was selected when the wall was left. */
  putAway: number[];
  undo: ActionRef | null;
  redo: ActionRef | null;
  lastAction: string | null;
  progress: Progress | null;
}

export const blank = (shootId: number): ShootState => ({
  shootId,
  revision: 0,
  loaded: false,
  arriving: false,
  failure: null,
  frames: new Map(),
  geometry: 0,
  view: null,
  visible: [],
  places: new Map(),
  leaving: new Set(),
  filter: EVERYTHING,
  filterOn: true,
  filterCameBack: false,
  active: null,
  selection: new Set(),
  anchor: null,
  putAway: [],
  undo: null,
  redo: null,
  lastAction: null,
  progress: null,
});

export const useShoot = create<ShootState>(() => blank(0));

/** Selects the frame that the person is at. */
export function activeFrame({ active, frames }: ShootState): Frame | undefined {
  return active === null ? undefined : frames.get(active);
}

/** Whether there is work to be done on frames. */
export function isPreparing(progress: Progress | null): boolean {
  return progress !== null && progress.state !== "done";
}

export function takeProgress(progress: Progress) {
  useShoot.setState({ progress });
}
