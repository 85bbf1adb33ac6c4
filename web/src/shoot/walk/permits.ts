/** What is in force in a pass: the few keys that it has, and what is always there. Everything else rests. */

import { type Does, goesByFrames, type MarkedField, passNow, useWalk } from "./store";

const exactly =
  (...ids: string[]) =>
  (id: string) =>
    ids.includes(id);

/** The commands that each word of a pass stands for, by id. */
export const COMMANDS_OF: Record<Does, (id: string) => boolean> = {
  keep: exactly("keep"),
  reject: exactly("reject"),
  leave: exactly("leave"),
  "keep-lead": exactly("keep-lead"),
  "keep-lead-only": exactly("keep-lead-only"),
  stars: (id) => /^rate-[1-5]$|^unrate$/.test(id),
  labels: (id) => /^label-|^unlabel$/.test(id),
  words: exactly("words"),
  turn: exactly("turn-left", "turn-right"),
  point: exactly("point"),
  "lay-aside": exactly("lay-aside"),
  "put-back": exactly("put-back"),
  flip: exactly("flip", "swap"),
  "take-place": exactly("take-place"),
  "next-group": exactly("next-group"),
  "next-undecided": exactly("next-undecided", "next-open-group"),
  evidence: exactly("evidence", "face-table"),
  peaking: exactly("peaking", "blur-map", "clipping"),
};

/** Moving, looking closer, undo, help and the way out. */
const ALWAYS = exactly(
  ...["next", "previous", "next-group", "previous-group", "next-run", "previous-run", "first", "last"],
  ...["zoom", "zoom-more", "loupe", "next-face", "previous-face", "reset-offsets"],
  ...["undo", "redo", "keys", "palette", "full-screen", "panels", "passes", "back", "at-once"],
);
const AT_THE_END = exactly("undo", "redo", "keys", "palette", "full-screen", "passes", "back");
/** While frames are shown together. */
const TOGETHER = exactly("reject", "undo", "redo", "keys", "palette", "back", "at-once");

/** Whether a command is in force now. */
export function isInForce(id: string): boolean {
  const { walk, ended, bulk } = useWalk.getState();
  if (!walk) return true;
  if (ended) return AT_THE_END(id);
  if (bulk) return TOGETHER(id);
  return ALWAYS(id) || walk.definition.keys.some(({ does }) => COMMANDS_OF[does](id));
}

const FIELDS: Record<MarkedField, string> = {
  decision: "decision",
  rating: "rating",
  label: "label",
  turn: "turn",
  words: "caption",
  point: "point",
  group: "group",
};

/** Whether marks of a class may be made now. */
export function permits(field: MarkedField): boolean {
  const { walk } = useWalk.getState();
  return !walk || walk.fields.includes(FIELDS[field]);
}

/** What is said of a mark that rests. */
export function restsInWords(field: MarkedField): string {
  const what = { decision: "decisions", rating: "stars", label: "labels", turn: "turns", group: "groups" };
  return `${what[field as keyof typeof what] ?? `${field}`} rest until you leave ${passNow()?.name}`;
}

/** Whether the next frame comes by itself in the pass that one is in; null: in none. */
export function goesOnIn(mark: "keep" | "reject" | "undecided" | "rating" | "label"): boolean | null {
  const pass = passNow();
  if (!pass) return null;
  const word = { rating: "stars", label: "labels" } as const;
  return pass.goes_on.some((one) => one === (mark in word ? word[mark as "rating" | "label"] : mark));
}

/** Whether rejects leave the stage at once. */
export function laysAside(): boolean {
  const pass = passNow();
  return Boolean(
    pass && !goesByFrames(pass) && (pass.leaves === "rejects" || pass.leaves === "what is decided"),
  );
}
