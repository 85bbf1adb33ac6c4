/** What is selected, what passes the filter, and which screen is shown. */

import { choose } from "../bench/stageStore";
import { activate, clearSelection, neighbour, select, selectRange } from "../shoot/moving";
import { setFilter, toggleDecision, toggleFilter, useShoot } from "../shoot/store";
import { tryAgain } from "../shoot/tryAgain";
import { type Command, EVERYWHERE, PICTURES, shout, stars } from "./command";

function extend(to: number | null, at: number) {
  if (to === null) return;
  selectRange(to);
  activate(to, at);
}

function atLeast(stars: number) {
  const { filter } = useShoot.getState();
  const same = filter.ratingRule === "at_least" && filter.stars === stars;
  setFilter(same ? { ratingRule: null, stars: 0 } : { ratingRule: "at_least", stars });
}

export const SELECTING: Command[] = [
  {
    id: "extend-next",
    title: "Selection up to the next frame",
    section: "Select",
    keys: ["shift+arrowright"],
    screens: ["wall"],
    run: (at) => extend(neighbour(1), at),
  },
  {
    id: "extend-previous",
    title: "Selection up to the previous frame",
    section: "Select",
    keys: ["shift+arrowleft"],
    screens: ["wall"],
    run: (at) => extend(neighbour(-1), at),
  },
  {
    id: "select-group",
    title: "Select the group",
    section: "Select",
    keys: ["g"],
    screens: ["wall"],
    run: () => {
      const { active, frames, visible } = useShoot.getState();
      const group = active === null ? undefined : frames.get(active)?.group;
      select(visible.filter((id) => frames.get(id)?.group === group));
    },
  },
  {
    id: "select-all",
    title: "Select all in view",
    section: "Select",
    keys: ["ctrl+a"],
    screens: ["wall"],
    run: () => select(useShoot.getState().visible),
  },
  {
    id: "select-none",
    title: "Select nothing",
    section: "Select",
    keys: ["escape"],
    screens: ["wall"],
    run: clearSelection,
  },
  {
    id: "selection-to-stage",
    title: "The selected frames on the stage",
    section: "Select",
    keys: ["shift+b"],
    screens: ["wall"],
    run: (_, go) => {
      choose([...useShoot.getState().selection]);
      go("bench");
    },
  },
];

export const FILTERS: Command[] = [
  {
    id: "filter",
    title: "Show all, and back to the filter",
    section: "Filter",
    keys: ["h"],
    screens: PICTURES,
    run: toggleFilter,
  },
  {
    id: "filter-picks",
    title: "Filter: keepers",
    section: "Filter",
    keys: ["alt+a"],
    screens: PICTURES,
    run: () => toggleDecision("pick"),
  },
  {
    id: "filter-undecided",
    title: "Filter: undecided",
    section: "Filter",
    keys: ["alt+s"],
    screens: PICTURES,
    run: () => toggleDecision("undecided"),
  },
  {
    id: "filter-rejects",
    title: "Filter: rejects",
    section: "Filter",
    keys: ["alt+d"],
    screens: PICTURES,
    run: () => toggleDecision("reject"),
  },
  ...stars.map(
    (n): Command => ({
      id: `filter-${n}`,
      title: `Filter: at least ${n === 1 ? "1 star" : `${n} stars`}`,
      section: "Filter",
      keys: [`alt+${n}`],
      screens: PICTURES,
      run: () => atLeast(n),
    }),
  ),
  {
    id: "filter-unrated",
    title: "Filter: unrated",
    section: "Filter",
    keys: ["alt+0"],
    screens: PICTURES,
    run: () =>
      setFilter({
        ratingRule: useShoot.getState().filter.ratingRule === "unrated" ? null : "unrated",
        stars: 0,
      }),
  },
];

export const SCREENS: Command[] = [
  {
    id: "to-bench",
    title: "To the bench",
    section: "Go",
    keys: ["enter"],
    screens: ["wall"],
    run: (_, go) => go("bench"),
  },
  {
    id: "to-wall",
    title: "To the wall",
    section: "Go",
    keys: ["enter", "escape"],
    screens: ["bench"],
    run: (_, go) => go("wall"),
  },
  {
    id: "wall",
    title: "Wall",
    section: "Go",
    keys: ["v"],
    screens: ["bench", "handoff"],
    run: (_, go) => go("wall"),
  },
  {
    id: "bench",
    title: "Bench",
    section: "Go",
    keys: ["b"],
    screens: ["wall", "handoff"],
    run: (_, go) => go("bench"),
  },
  {
    id: "handoff",
    title: "Handoff",
    section: "Go",
    keys: ["m"],
    screens: PICTURES,
    run: (_, go) => go("handoff"),
  },
  {
    id: "try-again",
    title: "Read the folder again and try what failed",
    section: "Go",
    keys: ["shift+k"],
    screens: EVERYWHERE,
    run: () => void tryAgain(useShoot.getState().shootId),
  },
  {
    id: "keys",
    title: "The keys in force",
    section: "Go",
    keys: ["?"],
    screens: EVERYWHERE,
    run: () => shout("keys"),
  },
];
