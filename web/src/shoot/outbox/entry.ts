/** What waits for the server: things that the person did, in the order of the keys. */

import type { Marked, Regrouping } from "../../api/client";
import type { MarkValues, MarkWish, Waiting, WordsChange } from "../waiting";

export type Act =
  | ({ kind: "mark"; frameIds: number[] } & MarkWish)
  /** among: the frames of the group that were in view. */
  | { kind: "keep-lead"; frameId: number; rejectRest: boolean; among: number[] }
  | { kind: "regroup"; frameId: number; action: Regrouping }
  /** What is said of frames in words. */
  | { kind: "words"; frameIds: number[]; words: WordsChange }
  /** What matters in a frame: a point, px of the full picture. */
  | { kind: "point"; frameId: number; x: number; y: number }
  /** batch: the action that is meant; null: the one that is last when this one's turn comes. */
  | { kind: "undo"; batch: number | null }
  | { kind: "redo"; batch: number | null };

export interface Entry {
  /** Its place in the line. */
  id: number;
  /** Under this key it is done once, however often it is sent. */
  key: string;
  library: string;
  shootId: number;
  /** Who did it, where they have given their name. */
  by?: string;
  /** In which walk. */
  walk?: number;
  /** When it was done, ms since 1970. */
  at: number;
  act: Act;
  /** What it makes of frames, where the act itself does not say it and it is known before the server answers. */
  shows: [number, MarkValues][];
  /** Of a mark on many frames: how many were sent, and the batch that they are in. */
  sent?: { frames: number; batch: number | null };
  /** Why the server would not have it. */
  refused?: string;
}

export type NewEntry = Omit<Entry, "id">;

/** An entry that an earlier version put in, in the words of this one. */
export function renewed(entry: Entry): Entry {
  return JSON.parse(
    JSON.stringify(entry)
      .replaceAll('"decision":"pick"', '"decision":"keep"')
      .replaceAll('"kind":"accept-lead"', '"kind":"keep-lead"'),
  );
}

/** Whether it stays on the list with the reason when the server will not have it; of anything else, being told is
 * enough. */
export function isKept({ kind }: Act): boolean {
  return kind === "mark" || kind === "words";
}

/** What the frames of a shoot look like with all that waits. */
export function waitingOn(entries: Entry[], shootId: number): Waiting {
  const waiting: Waiting = new Map();
  for (const entry of entries) {
    if (entry.shootId !== shootId || entry.refused) continue;
    for (const [id, values] of effectOf(entry)) waiting.set(id, { ...waiting.get(id), ...values });
  }
  return waiting;
}

function* effectOf({ act, shows }: Entry): Iterable<[number, MarkValues]> {
  yield* shows;
  if (act.kind !== "mark") return;
  const { frameIds, decision, rating, label } = act;
  const values = {
    ...(decision && { decision }),
    ...(rating !== undefined && { rating }),
    ...(label !== undefined && { label }),
  };
  for (const id of frameIds) yield [id, values];
}

/** The next in line once the one before it is journalled: an undo that meant "the last action" knows now which that
 * is. Undefined: as it was. */
export function informed(next: Entry, answer: Marked): Entry | undefined {
  return meaning(next, (way) => answer.actions[way]?.batch ?? NOTHING);
}

/** The next in line once the one before it was refused: an undo of that has nothing to take back. */
export function unmeant(next: Entry): Entry | undefined {
  return meaning(next, () => NOTHING);
}

/** No batch has this number. */
const NOTHING = 0;

/** Whether it is an undo or redo of whatever is last when its turn comes. */
export function meansTheLast({ act }: Entry): boolean {
  return (act.kind === "undo" || act.kind === "redo") && act.batch === null;
}

function meaning(entry: Entry, batchOf: (way: "undo" | "redo") => number): Entry | undefined {
  const { act } = entry;
  if ((act.kind !== "undo" && act.kind !== "redo") || !meansTheLast(entry)) return undefined;
  return { ...entry, act: { kind: act.kind, batch: batchOf(act.kind) } };
}
