/** Marks: into the outbox, on screen at once, journalled by the server right after, undone and redone. */

import { type Marked, newKey } from "../api/client";
import { useConnection } from "../api/connection";
import { asked } from "../ui/timing";
import { loadActions, noteOwnRevision } from "./actions";
import { tell } from "./errors";
import type { Filter } from "./filter";
import { keepUp, learnMarks, noteOwnChange, refresh, showWaiting } from "./frames";
import { activate } from "./moving";
import { isKept, waitingOn } from "./outbox/entry";
import { isBusy, type Outcome, onOutcome, putIn, useOutbox } from "./outbox/outbox";
import { useShoot } from "./store";
import { noteBatch, noteStep, type Seen, stepOver } from "./trail";
import { latest, setOut } from "./underWay";
import { expectRevision, refreshView, takeChange, touch } from "./view";
import type { MarkValues, MarkWish } from "./waiting";
import { permits, restsInWords } from "./walk/permits";
import { type MarkedField, useWalk } from "./walk/store";

const { getState: get, setState: set } = useShoot;

/** An undo of a mark on more frames is shown when the server has done it, not before. */
const REMEMBERED = 5000;

/** Counts what the person does: whoever has gone on is not called back by an answer. */
let doings = 0;
useShoot.subscribe((now, before) => {
  if (now.active !== before.active || now.selection !== before.selection) doings++;
});

/** Sets marks on frames: the scope as it was on screen when the key went down. */
export function mark(wish: MarkWish, at: number, ids: number[]) {
  const [first] = ids;
  if (first === undefined || rests(...(Object.keys(wish) as (keyof MarkWish)[]))) return;
  asked("winnow:mark", at, first);
  doings++;
  touch(ids);
  const { turn: _, ...values } = wish;
  const after: Seen = ids.length <= REMEMBERED ? ids.map((id) => [id, values]) : [];
  const key = newKey();
  noteStep(key, before(after), after);
  void putIn(get().shootId, key, { kind: "mark", frameIds: ids, ...wish }).finally(setOut(key, after));
}

/** Whether marks of these classes rest in the pass that one is in: it says so then. */
export function rests(...fields: MarkedField[]): boolean {
  const resting = fields.find((field) => !permits(field));
  if (resting) set({ lastAction: restsInWords(resting) });
  return resting !== undefined;
}

/** What values that are about to change are now, keys that were pressed just before included. */
function before(after: Seen): Seen {
  return after.flatMap(([id, values]): Seen => {
    const now = latest(id);
    const was: MarkValues = {};
    if (values.decision !== undefined) was.decision = now?.decision;
    if (values.rating !== undefined) was.rating = now?.rating;
    if (values.label !== undefined) was.label = now?.label;
    return now ? [[id, was]] : [];
  });
}

/** Keeps the lead of a frame's group; with `rejectRest` the others are rejected. Undone as one. Frames that the filter
 * hides are left as they are. */
export function keepLead(frameId: number | null, rejectRest: boolean) {
  const { frames, shootId, visible } = get();
  const group = frameId === null ? undefined : frames.get(frameId)?.group;
  if (frameId === null || group === undefined || rests("decision")) return;
  const among = visible.filter((id) => frames.get(id)?.group === group);
  const lead = among.find((id) => frames.get(id)?.lead);
  const after = among.flatMap((id): Seen => {
    if (id === lead) return [[id, { decision: "keep" }]];
    return rejectRest && lead !== undefined ? [[id, { decision: "reject" }]] : [];
  });
  const ids = after.map(([id]) => id);
  const key = newKey();
  doings++;
  touch(ids);
  noteStep(key, before(after), after);
  void putIn(shootId, key, { kind: "keep-lead", frameId, rejectRest, among }, after);
}

export function undoMark() {
  step("undo");
}

export function redoMark() {
  step("redo");
}

/** Where answers of steps lead, unless the person has done something since: by key, what had been done then. */
const waitingToShow = new Map<string, number>();

function step(way: "undo" | "redo") {
  const { shootId } = get();
  const next = get()[way];
  // With marks under way, the last of them is meant: which action that becomes is known when they have arrived.
  const batch = isBusy(shootId) ? null : (next?.batch ?? 0);
  if (batch === 0) return set({ lastAction: `nothing to ${way}` });
  const { walk } = useWalk.getState();
  // A key too many takes nothing back that was done before the pass, nor what frames started as in it.
  const isBefore = batch !== null && (next?.walk !== walk?.id || batch === walk?.starting);
  if (walk && isBefore) return set({ lastAction: `nothing to ${way} in ${walk.name}` });
  if (useWalk.getState().ended) useWalk.setState({ ended: false });
  const shows = stepOver(way, batch);
  const key = newKey();
  doings++;
  touch(shows.map(([id]) => id));
  void putIn(shootId, key, { kind: way, batch }, shows);
  const inView = shows.find(([id]) => get().places.has(id));
  // Off line no answer comes that would lead there.
  if (inView && useConnection.getState().lost) activate(inView[0]);
  else waitingToShow.set(key, doings);
}

/** Follows the outbox for the shoot that is open. */
export function followOutbox() {
  useOutbox.subscribe(({ entries }, before) => {
    if (entries === before.entries) return;
    showOutbox();
    keepUp();
  });
  onOutcome(take);
}

/** Shows what waits on the frames of the shoot that is open. */
export function showOutbox() {
  showWaiting(waitingOn(useOutbox.getState().entries, get().shootId));
}

function take(outcome: Outcome) {
  const { entry, answer, problem, partial } = outcome;
  const { act, key } = entry;
  const isStep = act.kind === "undo" || act.kind === "redo";
  if (!partial && !isStep) noteBatch(key, answer?.batch ?? entry.sent?.batch ?? null);
  if (problem !== undefined && !isKept(act)) tell(new Error(problem));
  if (get().shootId !== entry.shootId) return;
  if (!answer) {
    if (problem === undefined) set({ lastAction: `nothing to ${act.kind}` });
    waitingToShow.delete(key);
    void loadActions();
    void refresh();
    return;
  }
  noteOwnRevision(answer.revision);
  expectRevision(answer.revision);
  // A picture that is turned has another shape and other addresses.
  const isTurned = learnMarks(answer.frames);
  if (isTurned) void refresh();
  const isAll = !isTurned && noteOwnChange(answer) && !entry.sent;
  if (partial) return;
  const said = act.kind === "undo" ? "undone: " : act.kind === "redo" ? "redone: " : "";
  const lastAction = answer.title ? said + answer.title : get().lastAction;
  set({ undo: answer.actions.undo, redo: answer.actions.redo, lastAction });
  void showWhatChanged(key, answer, isAll ? outcome.seenBy : null);
}

/** seenBy: the filter through which the answer tells all that has changed; without, the view is asked for. */
async function showWhatChanged(key: string, answer: Marked, seenBy: Filter | null | undefined) {
  const changed = answer.frames.map(({ id }) => id);
  const done = waitingToShow.get(key);
  waitingToShow.delete(key);
  if (done !== undefined) touch(changed);
  if (!seenBy || !takeChange(changed, answer.view, seenBy)) await refreshView();
  const [first] = changed;
  if (done === doings && first !== undefined && get().places.has(first)) activate(first);
}
