/** What marks that wait for the server make of the frames and the counts on screen. */

import type { Decision, Frame, View } from "../api/client";

export interface MarkValues {
  decision?: Decision;
  rating?: number;
}

/** Values that wait, by frame. */
export type Waiting = Map<number, MarkValues>;

type Tally = View["tally"];

/** The counts after frames are marked otherwise than they were counted. */
export function recounted(tally: Tally, changes: Iterable<[Frame, Frame]>): Tally {
  const decisions = { ...tally.decisions };
  const ratings = [...tally.ratings];
  for (const [before, after] of changes) {
    if (before.place !== "shoot") continue;
    decisions[before.decision] = (decisions[before.decision] ?? 0) - 1;
    decisions[after.decision] = (decisions[after.decision] ?? 0) + 1;
    ratings[before.rating] = (ratings[before.rating] ?? 0) - 1;
    ratings[after.rating] = (ratings[after.rating] ?? 0) + 1;
  }
  return { ...tally, decisions, ratings };
}
