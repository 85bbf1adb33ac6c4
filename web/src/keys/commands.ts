/** Every command there is, with its default key. */

import type { Decision } from "../api/client";
import { mark, redoMark, undoMark } from "../shoot/marking";
import {
  activate,
  clearSelection,
  groupNeighbour,
  neighbour,
  nextUndecided,
  select,
  selectRange,
} from "../shoot/moving";
import { setFilter, setGoOn, toggleDecision, toggleFilter, useShoot } from "../shoot/store";

export type Screen = "bench" | "wall" | "handoff";

export interface Command {
  id: string;
  title: string;
  section: "Decide" | "Rate" | "Move" | "Look" | "Select" | "Filter" | "Go";
  /** Keys as `event.key` in lower case, with Ctrl+, Alt+, Shift+ before it. The first is shown. */
  keys: string[];
  screens: Screen[];
  run: (at: number, go: (screen: Screen) => void) => void;
}

/** Asks the stage to show a point of the active picture, px of the full size, at 100 %. */
export function showPoint(point: { x: number; y: number }) {
  window.dispatchEvent(new CustomEvent("winnow:show-point", { detail: point }));
}

/** Raised by commands that only one screen can carry out; that screen listens. */
export function shout(what: string) {
  window.dispatchEvent(new CustomEvent(`winnow:${what}`));
}

const PICTURES: Screen[] = ["bench", "wall"];
const EVERYWHERE: Screen[] = ["bench", "wall", "handoff"];

function decide(decision: Decision, at: number) {
  const { selection, goOn } = useShoot.getState();
  const next = neighbour(1);
  mark({ decision }, at);
  const leaves = decision === "undecided";
  if (!selection.size && (goOn || leaves)) activate(next, at);
}

function rate(rating: number, at: number) {
  const { selection, goOn } = useShoot.getState();
  const next = neighbour(1);
  mark({ rating }, at);
  if (!selection.size && goOn && rating > 0) activate(next, at);
}

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

const stars = [1, 2, 3, 4, 5];

export const COMMANDS: Command[] = [
  {
    id: "accept",
    title: "Accept (pick)",
    section: "Decide",
    keys: ["a"],
    screens: PICTURES,
    run: (at) => decide("pick", at),
  },
  {
    id: "leave",
    title: "Leave undecided, go on",
    section: "Decide",
    keys: ["s"],
    screens: PICTURES,
    run: (at) => decide("undecided", at),
  },
  {
    id: "discard",
    title: "Discard (reject)",
    section: "Decide",
    keys: ["d"],
    screens: PICTURES,
    run: (at) => decide("reject", at),
  },
  {
    id: "undo",
    title: "Undo the last mark",
    section: "Decide",
    keys: ["z", "ctrl+z"],
    screens: EVERYWHERE,
    run: undoMark,
  },
  {
    id: "redo",
    title: "Redo",
    section: "Decide",
    keys: ["x", "ctrl+shift+z", "ctrl+y"],
    screens: EVERYWHERE,
    run: redoMark,
  },
  {
    id: "go-on",
    title: "Going on by itself after a mark: on or off",
    section: "Decide",
    keys: ["n"],
    screens: PICTURES,
    run: () => setGoOn(!useShoot.getState().goOn),
  },
  {
    id: "unrate",
    title: "No stars",
    section: "Rate",
    keys: ["0"],
    screens: PICTURES,
    run: (at) => rate(0, at),
  },
  ...stars.map(
    (n): Command => ({
      id: `rate-${n}`,
      title: n === 1 ? "1 star" : `${n} stars`,
      section: "Rate",
      keys: [String(n)],
      screens: PICTURES,
      run: (at) => rate(n, at),
    }),
  ),
  {
    id: "next",
    title: "Next frame",
    section: "Move",
    keys: ["arrowright"],
    screens: PICTURES,
    run: (at) => activate(neighbour(1), at),
  },
  {
    id: "previous",
    title: "Previous frame",
    section: "Move",
    keys: ["arrowleft"],
    screens: PICTURES,
    run: (at) => activate(neighbour(-1), at),
  },
  {
    id: "next-group",
    title: "Next group",
    section: "Move",
    keys: ["arrowdown"],
    screens: PICTURES,
    run: (at) => activate(groupNeighbour(1), at),
  },
  {
    id: "previous-group",
    title: "Previous group",
    section: "Move",
    keys: ["arrowup"],
    screens: PICTURES,
    run: (at) => activate(groupNeighbour(-1), at),
  },
  {
    id: "next-undecided",
    title: "Next undecided frame",
    section: "Move",
    keys: ["u"],
    screens: PICTURES,
    run: (at) => activate(nextUndecided(), at),
  },
  {
    id: "first",
    title: "First frame",
    section: "Move",
    keys: ["home"],
    screens: PICTURES,
    run: (at) => activate(useShoot.getState().visible[0] ?? null, at),
  },
  {
    id: "last",
    title: "Last frame",
    section: "Move",
    keys: ["end"],
    screens: PICTURES,
    run: (at) => activate(useShoot.getState().visible.at(-1) ?? null, at),
  },
  {
    id: "zoom",
    title: "Whole frame or 100 %",
    section: "Look",
    keys: [" "],
    screens: ["bench"],
    run: () => shout("zoom"),
  },
  {
    id: "panels",
    title: "Only the picture",
    section: "Look",
    keys: ["."],
    screens: PICTURES,
    run: () => shout("panels"),
  },
  {
    id: "spine",
    title: "Spine: show or hide",
    section: "Look",
    keys: ["["],
    screens: PICTURES,
    run: () => shout("spine"),
  },
  {
    id: "evidence",
    title: "Capture data: show or hide",
    section: "Look",
    keys: ["]"],
    screens: ["bench"],
    run: () => shout("evidence"),
  },
  {
    id: "blur-map",
    title: "Blur map over the picture: σ in px by tiles, faces, subject",
    section: "Look",
    keys: ["k"],
    screens: ["bench"],
    run: () => shout("blur-map"),
  },
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
    id: "keys",
    title: "The keys in force",
    section: "Go",
    keys: ["?"],
    screens: EVERYWHERE,
    run: () => shout("keys"),
  },
];

export const KEY_NAMES: Record<string, string> = {
  " ": "Space",
  arrowright: "→",
  arrowleft: "←",
  arrowup: "↑",
  arrowdown: "↓",
  escape: "Esc",
  enter: "Enter",
  home: "Home",
  end: "End",
  ctrl: "Ctrl",
  alt: "Alt",
  shift: "Shift",
};

export function keyName(key: string): string {
  return key
    .split("+")
    .map((part) => KEY_NAMES[part] ?? part.toUpperCase())
    .join(" ");
}

/** The first key of a command, as shown in hints. */
export function keyOf(id: string): string {
  const key = COMMANDS.find((command) => command.id === id)?.keys[0];
  return key === undefined ? "" : keyName(key);
}
