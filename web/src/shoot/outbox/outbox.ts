/** The outbox: what was marked is in it before it is shown, and leaves it when the server has journalled it. All windows
 * of this browser share it. */

import { create } from "zustand";
import type { Marked } from "../../api/client";
import { LIBRARY } from "../../api/library";
import { settings } from "../../ui/settings";
import type { Filter } from "../filter";
import type { MarkValues } from "../waiting";
import { useWalk } from "../walk/store";
import type { Act, Entry, NewEntry } from "./entry";
import { Database, Memory, type Shelf } from "./shelf";

interface OutboxState {
  /** What waits, in order, and what was refused. */
  entries: Entry[];
  /** It outlives this page. */
  lasting: boolean;
}

export const useOutbox = create<OutboxState>(() => ({ entries: [], lasting: true }));

export const waits = (entry: Entry) => !entry.refused;

/** The browser's database takes some milliseconds; after so many it is not waited for any more. */
const LATE_MS = 4000;

let shelf: Shelf = new Database("winnow-outbox");

/** Counts what is changed here: what was read meanwhile is out of date. */
let changes = 0;

/** Acts that are being put in and are not on the list yet, by shoot. */
const onTheWay = new Map<number, number>();

/** Whether anything of a shoot waits. */
export function isBusy(shootId: number): boolean {
  const { entries } = useOutbox.getState();
  return (onTheWay.get(shootId) ?? 0) > 0 || entries.some((one) => one.shootId === shootId && waits(one));
}

/** Puts an act at the end of the line; resolves when it is safe there, and shown. */
export async function putIn(shootId: number, key: string, act: Act, shows: [number, MarkValues][] = []) {
  onTheWay.set(shootId, (onTheWay.get(shootId) ?? 0) + 1);
  try {
    const { name } = settings();
    const by = name ? { by: name } : {};
    const { walk } = useWalk.getState();
    const within = walk?.shoot_id === shootId ? { walk: walk.id } : {};
    await add({ key, library: LIBRARY, shootId, at: Date.now(), act, shows, ...by, ...within });
  } finally {
    onTheWay.set(shootId, (onTheWay.get(shootId) ?? 1) - 1);
  }
}

async function add(entry: NewEntry) {
  let added: Entry;
  try {
    added = await soon(shelf.add(entry));
  } catch {
    await keepInPage();
    added = await shelf.add(entry);
  }
  changes++;
  const others = useOutbox.getState().entries.filter((one) => one.id !== added.id);
  useOutbox.setState({ entries: [...others, added].sort((a, b) => a.id - b.id) });
  tellWindows({ kind: "changed" });
}

/** A mark is not shown before it is safe: a database that does not answer must not hold it up for ever. */
function soon<T>(promise: Promise<T>): Promise<T> {
  const late = new Promise<never>((_, reject) => setTimeout(reject, LATE_MS, new Error("no answer")));
  return Promise.race([promise, late]);
}

/** The browser keeps nothing (a private window, a full disk): marks are sent all the same, and wait on this page. */
async function keepInPage() {
  if (!shelf.lasting) return;
  const before = useOutbox.getState().entries;
  shelf = new Memory();
  for (const { id: _, ...entry } of before) await shelf.add(entry);
  changes++;
  useOutbox.setState({ entries: await shelf.all(), lasting: false });
}

/** Whether other windows share it. */
export function isShared(): boolean {
  return shelf.lasting;
}

/** Reads what is kept. Entries of other data folders stay where they are. */
export async function readOutbox() {
  try {
    const before = changes;
    const entries = await shelf.all();
    if (changes !== before) return await readOutbox();
    useOutbox.setState({ entries: entries.filter(({ library }) => library === LIBRARY) });
  } catch {
    await keepInPage();
  }
}

/** Puts `kept` in the place of an entry, or takes it off the list (null). `inform` may change the next one of its shoot. */
export async function settle(entry: Entry, kept: Entry | null, inform?: (next: Entry) => Entry | undefined) {
  const { entries } = useOutbox.getState();
  const next = nextAfter(entry, entries);
  const informed = next && inform?.(next);
  changes++;
  const here = entries.flatMap((one) => {
    if (one.id === entry.id) return kept ? [kept] : [];
    return one.id === informed?.id ? [informed] : [one];
  });
  useOutbox.setState({ entries: here });
  try {
    await shelf.settle(entry, kept, informed);
  } catch {
    // It stays in the browser's database, and is done no second time: it has its key.
    await keepInPage();
  }
  changes++;
  tellWindows({ kind: "changed" });
}

function nextAfter(entry: Entry, entries: Entry[]): Entry | undefined {
  return entries.find((one) => one.id > entry.id && one.shootId === entry.shootId && waits(one));
}

/** Puts a refused act at the end of the line, as it was. */
export async function sendAgain(refused: Entry) {
  const { id: _, refused: __, ...entry } = refused;
  await settle(refused, null);
  await add(entry);
}

/** What became of an act. */
export interface Outcome {
  entry: Entry;
  /** Null: there was nothing to undo or redo, or it was refused. */
  answer: Marked | null;
  /** The filter that the view in the answer is of; not known where it was sent from another window. */
  seenBy?: Filter | null;
  /** Why it was refused. */
  problem?: string;
  /** More of it is to be sent. */
  partial?: boolean;
}

const listeners = new Set<(outcome: Outcome) => void>();

/** Calls back with what became of each act, before it leaves the list. Returns what ends that. */
export function onOutcome(listener: (outcome: Outcome) => void): () => void {
  listeners.add(listener);
  return () => {
    listeners.delete(listener);
  };
}

/** Tells everybody what became of an act, in all windows. */
export function report(outcome: Outcome) {
  for (const listener of listeners) listener(outcome);
  tellWindows({ kind: "outcome", outcome: { ...outcome, seenBy: null } });
}

type Message = { kind: "changed" } | { kind: "outcome"; outcome: Outcome };

const channel = new BroadcastChannel("winnow-outbox");

function tellWindows(message: Message) {
  if (shelf.lasting) channel.postMessage(message);
}

channel.onmessage = ({ data }: MessageEvent<Message>) => {
  if (data.kind === "changed") void readOutbox();
  else if (data.outcome.entry.library === LIBRARY) for (const listener of listeners) listener(data.outcome);
};
