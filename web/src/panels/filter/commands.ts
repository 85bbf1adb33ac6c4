/** Commands of the filter: the key that sets a mark, pressed with Alt, filters for it. */

import type { Command } from "../../keys/command";
import { useShoot } from "../../shoot/store";
import { setFilter, toggleDecision, toggleFilter } from "../../shoot/view";

function atLeast(stars: number) {
  const { filter } = useShoot.getState();
  const same = filter.ratingRule === "at_least" && filter.stars === stars;
  setFilter(same ? { ratingRule: null, stars: 0 } : { ratingRule: "at_least", stars });
}

function unrated() {
  const { ratingRule } = useShoot.getState().filter;
  setFilter({ ratingRule: ratingRule === "unrated" ? null : "unrated", stars: 0 });
}

export const FILTERS: Command[] = [
  {
    id: "filter",
    title: "Show all, and back to the filter",
    section: "Filter",
    keys: ["h"],
    run: toggleFilter,
  },
  {
    id: "filter-keepers",
    title: "Filter: keepers",
    section: "Filter",
    keys: ["alt+a"],
    run: () => toggleDecision("keep"),
  },
  {
    id: "filter-undecided",
    title: "Filter: undecided",
    section: "Filter",
    keys: ["alt+s"],
    run: () => toggleDecision("undecided"),
  },
  {
    id: "filter-rejects",
    title: "Filter: rejects",
    section: "Filter",
    keys: ["alt+d"],
    run: () => toggleDecision("reject"),
  },
  ...[1, 2, 3, 4, 5].map(
    (n): Command => ({
      id: `filter-${n}`,
      title: `Filter: at least ${n === 1 ? "1 star" : `${n} stars`}`,
      section: "Filter",
      keys: [`alt+${n}`],
      run: () => atLeast(n),
    }),
  ),
  {
    id: "filter-unrated",
    title: "Filter: unrated",
    section: "Filter",
    keys: ["alt+0"],
    run: unrated,
  },
];
