/** Commands on frames and groups that screens with pictures share. What a key acts on and where a step leads is for the
 * screen to say. */

import type { Decision } from "../api/client";
import type { Command, Commands } from "../keys/command";
import { changeSettings, type MarkKind, settings } from "../ui/settings";
import { goToScreen, openLargeView } from "./address";
import { decide, goesOnAfter, label, rate, turn, whereTo } from "./deciding";
import { regroup } from "./grouping";
import { labelCommands } from "./labelCommands";
import { line } from "./line";
import { keepLead, redoMark, undoMark } from "./marking";
import { activate, nextOpenGroup, nextUndecided, sceneNeighbour } from "./moving";
import { choosePaint } from "./painting";
import { takeOver, turnDown } from "./proposals";
import { toggleRunThrough } from "./runThrough";
import { laysAside } from "./walk/permits";
import { passNow } from "./walk/store";

export interface Ground {
  /** The frames that a mark acts on: what is in sight, or nothing. */
  scope: () => number[];
  /** The active frame, if it is in sight. */
  active: () => number | null;
  /** The frame that a step leads to. */
  step: (by: 1 | -1) => number | null;
  /** The frame that the arrow down (+1) or up (−1) leads to: of another group, wherever groups stand together. */
  below: (by: 1 | -1) => number | null;
  /** Whether the scope is a selection: then no mark goes on by itself. */
  isSelecting: () => boolean;
  /** Whether frames are held against one another. */
  isComparing: () => boolean;
  /** Takes a frame off the stage, and goes on to another of its group. */
  layAside?: (id: number) => void;
}

const STARS = [1, 2, 3, 4, 5];

export function decideCommands(ground: Ground): Commands {
  /** Marks the scope and goes on, where that is wished. */
  const set = (
    kind: MarkKind,
    act: (ids: number[]) => void,
    at: number,
    always = false,
    decision?: Decision,
  ) => {
    const ids = ground.scope();
    if (!ids.length) return;
    const step = () => ground.step(1);
    const holds = ground.isComparing() && !settings().goOnComparing && !passNow();
    const isOut = decision === "reject" && laysAside();
    const goes = always || (!ground.isSelecting() && !holds && !isOut && goesOnAfter(kind, decision));
    const next = always ? step() : goes ? whereTo(step) : null;
    act(ids);
    if (isOut) for (const id of ids) ground.layAside?.(id);
    if (goes) activate(next, at);
  };
  const decideAll = (decision: Decision, at: number) =>
    choosePaint({ kind: "decision", value: decision }) ||
    set(
      "decision",
      (ids) => decide(decision, at, ids),
      at,
      decision === "undecided" && !ground.isSelecting(),
      decision,
    );
  const rateAll = (rating: number, at: number) => {
    if (choosePaint({ kind: "rating", value: rating })) return;
    if (rating) set("rating", (ids) => rate(rating, at, ids), at);
    else rate(0, at, ground.scope());
  };
  const labelAll = (text: string | null, at: number) =>
    choosePaint({ kind: "label", value: text }) || set("label", (ids) => label(text, at, ids), at);
  return [
    {
      id: "keep",
      title: "Keep",
      section: "Decide",
      keys: ["a"],
      run: (at) => decideAll("keep", at),
    },
    {
      id: "leave",
      title: "Leave undecided, go on",
      section: "Decide",
      keys: ["s"],
      run: (at) => decideAll("undecided", at),
    },
    {
      id: "reject",
      title: "Reject",
      section: "Decide",
      keys: ["d"],
      run: (at) => decideAll("reject", at),
    },
    {
      id: "undo",
      title: "Undo the last mark",
      section: "Decide",
      keys: ["z", "ctrl+z"],
      run: undoMark,
    },
    {
      id: "redo",
      title: "Redo",
      section: "Decide",
      keys: ["shift+z", "ctrl+shift+z", "ctrl+y"],
      run: redoMark,
    },
    {
      id: "take-over",
      title: "Take over what is proposed",
      section: "Decide",
      keys: [],
      run: () => void takeOver(ground.scope()),
    },
    {
      id: "turn-down",
      title: "Turn down what is proposed",
      section: "Decide",
      keys: [],
      run: () => void turnDown(ground.scope()),
    },
    {
      id: "go-on",
      title: "Going on by itself after a mark: on or off",
      section: "Decide",
      keys: ["n"],
      run: () => changeSettings({ goOn: !settings().goOn }),
    },
    {
      id: "unrate",
      title: "No stars",
      section: "Rate",
      keys: ["0"],
      run: (at) => rateAll(0, at),
    },
    ...STARS.map(
      (n): Command => ({
        id: `rate-${n}`,
        title: n === 1 ? "1 star" : `${n} stars`,
        section: "Rate",
        keys: [String(n)],
        run: (at) => rateAll(n, at),
      }),
    ),
    {
      id: "turn-left",
      title: "Turn the picture left",
      section: "Look",
      keys: ["ctrl+arrowleft"],
      run: (at) => turn("left", at, ground.scope()),
    },
    {
      id: "turn-right",
      title: "Turn the picture right",
      section: "Look",
      keys: ["ctrl+arrowright"],
      run: (at) => turn("right", at, ground.scope()),
    },
    labelCommands(labelAll),
    {
      id: "unlabel",
      title: "No label",
      section: "Label",
      keys: ["`"],
      run: (at) => labelAll(null, at),
    },
  ];
}

export function moveCommands(ground: Ground): Command[] {
  return [
    {
      id: "next",
      title: "Next frame",
      section: "Move",
      keys: ["arrowright"],
      repeats: true,
      run: (at) => activate(ground.step(1), at),
    },
    {
      id: "previous",
      title: "Previous frame",
      section: "Move",
      keys: ["arrowleft"],
      repeats: true,
      run: (at) => activate(ground.step(-1), at),
    },
    {
      id: "next-group",
      title: "Next group",
      section: "Move",
      keys: ["arrowdown"],
      repeats: true,
      run: (at) => activate(ground.below(1), at),
    },
    {
      id: "previous-group",
      title: "Previous group",
      section: "Move",
      keys: ["arrowup"],
      repeats: true,
      run: (at) => activate(ground.below(-1), at),
    },
    {
      id: "next-open-group",
      title: "Next group with something undecided",
      section: "Move",
      keys: ["shift+u"],
      repeats: true,
      run: (at) => activate(nextOpenGroup(), at),
    },
    {
      id: "next-scene",
      title: "Next scene",
      section: "Move",
      keys: ["ctrl+arrowdown"],
      repeats: true,
      run: (at) => activate(sceneNeighbour(1), at),
    },
    {
      id: "previous-scene",
      title: "Previous scene",
      section: "Move",
      keys: ["ctrl+arrowup"],
      repeats: true,
      run: (at) => activate(sceneNeighbour(-1), at),
    },
    {
      id: "next-undecided",
      title: "Next undecided frame",
      section: "Move",
      keys: ["u"],
      repeats: true,
      run: (at) => activate(nextUndecided(), at),
    },
    {
      id: "first",
      title: "First frame",
      section: "Move",
      keys: ["home"],
      run: (at) => activate(line().ids[0] ?? null, at),
    },
    {
      id: "last",
      title: "Last frame",
      section: "Move",
      keys: ["end"],
      run: (at) => activate(line().ids.at(-1) ?? null, at),
    },
  ];
}

export function groupCommands({ active }: Ground): Command[] {
  return [
    {
      id: "keep-lead",
      title: "Keep the lead, leave the rest",
      section: "Group",
      keys: ["6"],
      run: () => keepLead(active(), false),
    },
    {
      id: "keep-lead-only",
      title: "Keep the lead, reject the rest",
      section: "Group",
      keys: ["7"],
      run: () => keepLead(active(), true),
    },
    {
      id: "split",
      title: "Begin a new group at this frame",
      section: "Group",
      keys: ["shift+s"],
      run: () => regroup("split", active()),
    },
    {
      id: "join",
      title: "Join with the next group",
      section: "Group",
      keys: ["shift+j"],
      run: () => regroup("join_next", active()),
    },
    {
      id: "to-previous",
      title: "Move the frame to the group before",
      section: "Group",
      keys: ["shift+arrowup"],
      run: () => regroup("to_previous", active()),
    },
    {
      id: "to-next",
      title: "Move the frame to the next group",
      section: "Group",
      keys: ["shift+arrowdown"],
      run: () => regroup("to_next", active()),
    },
  ];
}

function going(screen: string, title: string, key: string): Command {
  return { id: screen, title, section: "Go", keys: [key], run: () => goToScreen(screen) };
}

export const TO_WALL = going("wall", "Wall", "v");
export const TO_BENCH = going("bench", "Bench", "b");
export const TO_HANDOFF = going("handoff", "Handoff", "m");
export const TO_SYNC = going("sync", "Sync", "ctrl+s");

export const RUN_THROUGH: Command = {
  id: "run-through",
  title: "Run through what is in view, full screen; again: end it",
  section: "Look",
  keys: ["shift+n"],
  run: toggleRunThrough,
};

export const SECOND_WINDOW: Command = {
  id: "second-window",
  title: "A second window with the active frame, large",
  section: "Look",
  keys: ["shift+enter"],
  run: openLargeView,
};
