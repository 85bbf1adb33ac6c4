/** What marks that wait for the server make of the frames and the counts on screen. */

import type { Decision, Frame, View } from "../api/client";
import type { components } from "../api/schema";

export interface MarkValues {
  decision?: Decision;
  rating?: number;
  /** As frames hold it; null: none. */
  label?: string | null;
}

/** What can be done to a frame: a turn by a quarter, from however it stands, is shown when the server has done it. */
export interface MarkWish extends MarkValues {
  turn?: "left" | "right";
}

/** What is to become of the words of frames; what is left out stays. */
export type WordsChange = Partial<Omit<components["schemas"]["WordsWish"], "frame_ids">>;

/** Values that wait, by frame. */
export type Waiting = Map<number, MarkValues>;

type Tally = View["tally"];

/** The counts after frames are marked otherwise than they were counted. */
export function recounted(tally: Tally, changes: Iterable<[Frame, Frame]>): Tally {
  const decisions = { ...tally.decisions };
  const ratings = [...tally.ratings];
  const labels = { ...tally.labels };
  for (const [before, after] of changes) {
    if (before.place !== "shoot") continue;
    decisions[before.decision] = (decisions[before.decision] ?? 0) - 1;
    decisions[after.decision] = (decisions[after.decision] ?? 0) + 1;
    ratings[before.rating] = (ratings[before.rating] ?? 0) - 1;
    ratings[after.rating] = (ratings[after.rating] ?? 0) + 1;
    if (before.label) labels[before.label] = (labels[before.label] ?? 0) - 1;
    if (after.label) labels[after.label] = (labels[after.label] ?? 0) + 1;
  }
  return { ...tally, decisions, ratings, labels };
}
