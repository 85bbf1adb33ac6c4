/** Deciding, rating, and groups as a whole. */

import type { Decision } from "../api/client";
import { regroup } from "../shoot/grouping";
import { acceptLead, mark, redoMark, undoMark } from "../shoot/marking";
import { setGoOn, useShoot } from "../shoot/store";
import { active, type Command, EVERYWHERE, goTo, PICTURES, stars, step } from "./command";

function decide(decision: Decision, at: number) {
  const { selection, goOn } = useShoot.getState();
  const next = step(1);
  mark({ decision }, at);
  const leaves = decision === "undecided";
  if (!selection.size && (goOn || leaves)) goTo(next, at);
}

function rate(rating: number, at: number) {
  const { selection, goOn } = useShoot.getState();
  const next = step(1);
  mark({ rating }, at);
  if (!selection.size && goOn && rating > 0) goTo(next, at);
}

export const MARKS: Command[] = [
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
];

export const GROUPS: Command[] = [
  {
    id: "accept-lead",
    title: "Accept the lead, leave the rest",
    section: "Group",
    keys: ["6"],
    screens: PICTURES,
    run: () => acceptLead(active(), false),
  },
  {
    id: "accept-lead-only",
    title: "Accept the lead, discard the rest",
    section: "Group",
    keys: ["7"],
    screens: PICTURES,
    run: () => acceptLead(active(), true),
  },
  {
    id: "split",
    title: "Begin a new group at this frame",
    section: "Group",
    keys: ["shift+s"],
    screens: PICTURES,
    run: () => regroup("split", active()),
  },
  {
    id: "join",
    title: "Join with the next group",
    section: "Group",
    keys: ["shift+j"],
    screens: PICTURES,
    run: () => regroup("join_next", active()),
  },
  {
    id: "to-previous",
    title: "Move the frame to the group before",
    section: "Group",
    keys: ["shift+arrowup"],
    screens: PICTURES,
    run: () => regroup("to_previous", active()),
  },
  {
    id: "to-next",
    title: "Move the frame to the next group",
    section: "Group",
    keys: ["shift+arrowdown"],
    screens: PICTURES,
    run: () => regroup("to_next", active()),
  },
];
