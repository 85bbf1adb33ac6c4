/** Key sets: which commands have other keys than they come with. Ours cannot be changed, copies of them can; they are kept
 * in this browser. */

import { create } from "zustand";
import { persist } from "zustand/middleware";
import type { Bindings, By } from "./bindings";

export interface KeySet {
  id: string;
  name: string;
  by: By;
  keys: Bindings;
}

const NONE: string[] = [];

/** Everything that a shoot is gone through with lies under the left hand; the right one is at the mouse. */
const LEFT: Bindings = {
  next: ["f", "arrowright"],
  previous: ["r", "arrowleft"],
  "next-group": ["g", "arrowdown"],
  "previous-group": ["t", "arrowup"],
  "put-back": ["v", "backspace"],
  "select-group": ["alt+g"],
  wall: NONE,
  paint: NONE,
  flip: ["shift+x"],
  "layout-group": ["shift+w"],
  "layout-two": ["shift+r"],
  "layout-one": ["shift+d"],
  "cover-set": ["ctrl+e"],
};

/** Everything under the right hand, beside the arrows. */
const RIGHT: Bindings = {
  keep: ["j"],
  leave: ["k"],
  reject: ["l"],
  undo: ["u", "ctrl+z"],
  "next-undecided": ["shift+m"],
  next: ["arrowright", "i"],
  previous: ["arrowleft", "y"],
  "next-group": ["arrowdown", "o"],
  "previous-group": ["arrowup", "p"],
  "layout-two": ["alt+i"],
  "layout-one": ["alt+o"],
  swap: NONE,
  passes: ["h"],
  filter: ["shift+y"],
  "zoom-more": ["shift+d"],
  "blur-map": ["shift+x"],
  "lay-aside": [";"],
  "reject-aside": ["'"],
  follow: NONE,
  "reset-offsets": ["shift+o"],
  "rate-1": ["6"],
  "rate-2": ["7"],
  "rate-3": ["8"],
  "rate-4": ["9"],
  "rate-5": ["0"],
  unrate: ["-"],
  clipping: ["shift+p"],
  "keep-lead": ["["],
  "keep-lead-only": ["]"],
  spine: ["{"],
  evidence: ["}"],
  capture: NONE,
  plain: NONE,
  "label-1": ["m"],
  "label-2": [","],
  "label-3": ["."],
  handoff: NONE,
  "face-table": NONE,
  panels: ["alt+p"],
};

/** A number pad, or any pad of sixteen keys: 5 keeps, 0 rejects, the arrows of the pad move. */
const DIGITS: Bindings = {
  keep: ["5"],
  reject: ["0"],
  leave: ["1"],
  undo: ["7", "ctrl+z"],
  next: ["6", "arrowright"],
  previous: ["4", "arrowleft"],
  "next-group": ["2", "arrowdown"],
  "previous-group": ["8", "arrowup"],
  zoom: ["9", " "],
  "keep-lead": ["3"],
  "keep-lead-only": ["*"],
  "lay-aside": ["-"],
  "put-back": ["+", "backspace"],
  clipping: ["shift+p"],
  capture: NONE,
  plain: NONE,
  "filter-unrated": NONE,
  "filter-1": NONE,
  "filter-2": NONE,
  "filter-3": NONE,
  "filter-4": NONE,
  "filter-5": NONE,
  unrate: ["alt+0"],
  "rate-1": ["alt+1"],
  "rate-2": ["alt+2"],
  "rate-3": ["alt+3"],
  "rate-4": ["alt+4"],
  "rate-5": ["alt+5"],
};

export const DEFAULT: KeySet = { id: "default", name: "Default", by: "letter", keys: {} };
export const OURS: KeySet[] = [
  DEFAULT,
  { id: "left", name: "Left hand", by: "position", keys: LEFT },
  { id: "right", name: "Right hand", by: "position", keys: RIGHT },
  { id: "digits", name: "Digits only", by: "letter", keys: DIGITS },
];

interface KeySets {
  /** Id of the set in force. */
  current: string;
  own: KeySet[];
}

/** What an earlier version kept: changes alone. */
interface Before {
  own: Bindings;
}

export const useKeySets = create<KeySets>()(
  persist((): KeySets => ({ current: DEFAULT.id, own: [] }), {
    name: "winnow.keys",
    version: 1,
    migrate: (kept) => {
      const keys = (kept as Before).own ?? {};
      if (!Object.keys(keys).length) return { current: DEFAULT.id, own: [] };
      const mine: KeySet = { id: "own-1", name: "Mine", by: "letter", keys };
      return { current: mine.id, own: [mine] };
    },
  }),
);

// Another window of this browser changed something.
globalThis.window?.addEventListener("storage", ({ key }) => {
  if (key === useKeySets.persist.getOptions().name) void useKeySets.persist.rehydrate();
});

export function isOurs({ id }: KeySet): boolean {
  return OURS.some((one) => one.id === id);
}

/** The set in force. */
export function keySet({ current, own }: KeySets = useKeySets.getState()): KeySet {
  return [...OURS, ...own].find(({ id }) => id === current) ?? DEFAULT;
}

export function chooseSet(id: string) {
  useKeySets.setState({ current: id });
}

/** Changes the set in force; of one of ours, a copy is made and changed. Returns the name of a copy that was made. */
export function changeSet(change: Partial<Omit<KeySet, "id">>): string | null {
  const { own } = useKeySets.getState();
  const set = keySet();
  if (isOurs(set)) return addSet({ name: `${set.name}, mine`, by: set.by, keys: set.keys, ...change });
  useKeySets.setState({ own: own.map((one) => (one.id === set.id ? { ...one, ...change } : one)) });
  return null;
}

/** Adds a set, and puts it in force. Returns its name, which none has yet. */
export function addSet({ name, by, keys }: Omit<KeySet, "id">): string {
  const { own } = useKeySets.getState();
  const taken = new Set([...OURS, ...own].map((one) => one.name));
  let free = name;
  for (let n = 2; taken.has(free); n++) free = `${name} ${n}`;
  const id = `own-${1 + Math.max(0, ...own.map((one) => Number(one.id.split("-")[1]) || 0))}`;
  useKeySets.setState({ current: id, own: [...own, { id, name: free, by, keys }] });
  return free;
}

/** Forgets the set in force; ours stay. */
export function forgetSet() {
  const { current, own } = useKeySets.getState();
  useKeySets.setState({ current: DEFAULT.id, own: own.filter(({ id }) => id !== current) });
}
