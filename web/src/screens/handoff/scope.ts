/** What leaves: the keepers, what the filter shows, or what is selected; in the order of the wall. */

import { useState } from "react";
import type { Frame } from "../../api/client";
import { filterInForce } from "../../shoot/filterInForce";
import { inWallOrder, useOrdering } from "../../shoot/line";
import { useShoot } from "../../shoot/store";

export type Which = "keepers" | "filter" | "selection";

export interface Scope {
  which: Which;
  choose: (which: Which) => void;
  /** How many frames each would be; none: it is not to be had. */
  counts: Record<Which, number>;
  frames: number;
  /** The filter in force, as a sentence. */
  filter: string;
  /** All of them, one by one. */
  ids: () => number[];
  /** What a plan is told. */
  wish: { show: string; frames: number[] };
  /** What the frames are called. */
  noun: string;
}

export function useScope(): Scope {
  const [chosen, choose] = useState<Which>("keepers");
  const kept = useShoot((s) => s.view?.tally.decisions.keep ?? 0);
  const frames = useShoot((s) => s.frames);
  const visible = useShoot((s) => s.visible);
  const filter = useShoot((s) => filterInForce(s).show);
  const selection = useShoot((s) => s.selection);
  const isSorted = useOrdering((s) => s.values !== null || s.down);
  const selected = selection.size > 1 ? visible.filter((id) => selection.has(id)) : [];
  const counts = { keepers: kept, filter: visible.length, selection: selected.length };
  const which = counts[chosen] > 0 ? chosen : "keepers";
  const wish = {
    // In another order than that of time they are named one by one.
    keepers: () => ({ show: "", frames: isSorted ? inWallOrder(keepersOf(frames.values())) : [] }),
    // Without a filter it is all of them: they are named too.
    filter: () => ({ show: filter, frames: filter && !isSorted ? [] : inWallOrder(visible) }),
    selection: () => ({ show: "", frames: inWallOrder(selected) }),
  }[which]();
  return {
    which,
    choose,
    counts,
    frames: counts[which],
    filter,
    ids: () =>
      inWallOrder({ keepers: keepersOf(frames.values()), filter: visible, selection: selected }[which]),
    wish,
    noun: which === "keepers" ? "keeper" : "frame",
  };
}

function keepersOf(frames: Iterable<Frame>): number[] {
  return [...frames]
    .filter((frame) => frame.place === "shoot" && frame.decision === "keep")
    .sort((a, b) => a.position - b.position)
    .map(({ id }) => id);
}
