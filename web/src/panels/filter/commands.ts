/** Commands of the filter: the key that sets a mark, pressed with Alt, filters for it. */

import type { Command } from "../../keys/command";
import { toggleFilter, toggleFilterPart } from "../../shoot/view";
import { askMore } from "./AskMore";

export const DECISION_WORDS = [
  { id: "keepers", key: "a" },
  { id: "undecided", key: "s" },
  { id: "rejects", key: "d" },
];

export const FILTERS: Command[] = [
  {
    id: "filter",
    title: "Show all, and back to the filter",
    section: "Filter",
    keys: ["h"],
    run: toggleFilter,
  },
  {
    id: "ask",
    title: "Ask for more: choose, or type a filter",
    section: "Filter",
    keys: ["ctrl+f"],
    run: askMore,
  },
  ...DECISION_WORDS.map(
    ({ id, key }): Command => ({
      id: `filter-${id}`,
      title: `Filter: ${id}`,
      section: "Filter",
      keys: [`alt+${key}`],
      run: () => toggleFilterPart("decision", "Decision", id),
    }),
  ),
  ...[1, 2, 3, 4, 5].map(
    (n): Command => ({
      id: `filter-${n}`,
      title: `Filter: at least ${n === 1 ? "1 star" : `${n} stars`}`,
      section: "Filter",
      keys: [`alt+${n}`],
      run: () => toggleFilterPart("rating", "Stars", atLeast(n), true),
    }),
  ),
  {
    id: "filter-unrated",
    title: "Filter: unrated",
    section: "Filter",
    keys: ["alt+0"],
    run: () => toggleFilterPart("rating", "Stars", "unrated", true),
  },
];

function atLeast(n: number): string {
  return n === 1 ? "1 star or more" : n === 5 ? "5 stars" : `${n} stars or more`;
}
