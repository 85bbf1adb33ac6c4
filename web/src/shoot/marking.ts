/** Marks: on screen at once, journalled by the server right after, undone and redone. */

import { api, type Decision, type Marked, unwrap } from "../api/client";
import { asked } from "../perf";
import { activate, scope } from "./moving";
import { attempt, loadActions, pending, refresh, refreshView, useShoot } from "./store";

const { getState: get, setState: set } = useShoot;

export interface MarkValues {
  decision?: Decision;
  rating?: number;
}

const waiting: (() => Promise<void>)[] = [];
let sending = false;

/** Requests that change marks go out one after another, in the order of the keys. */
function inTurn<T>(request: () => Promise<T>): Promise<T | undefined> {
  return new Promise((resolve) => {
    waiting.push(() => attempt(request).then(resolve));
    void sendWaiting();
  });
}

async function sendWaiting() {
  if (sending) return;
  sending = true;
  for (let next = waiting.shift(); next; next = waiting.shift()) await next();
  sending = false;
}

// A page that is left sends what still waits; `keepalive` lets it arrive after the page is gone.
window.addEventListener("pagehide", () => {
  for (const request of waiting.splice(0)) void request();
});

/** Sets marks on the scope: on screen at once, journalled by the server right after. */
export function mark(values: MarkValues, at = performance.now(), ids = scope()) {
  if (!ids.length) return;
  const { shootId, frames } = get();
  const next = new Map(frames);
  for (const id of ids) {
    const frame = next.get(id);
    if (frame) next.set(id, { ...frame, ...values });
    pending.set(id, (pending.get(id) ?? 0) + 1);
  }
  if (ids[0] !== undefined) asked("winnow:mark", at, ids[0]);
  set({ frames: next });
  void inTurn(() =>
    api
      .POST("/api/shoots/{shoot_id}/marks", {
        keepalive: true,
        params: { path: { shoot_id: shootId } },
        body: { frame_ids: ids, ...values },
      })
      .then(unwrap),
  ).then((answer) => {
    for (const id of ids) {
      const left = (pending.get(id) ?? 1) - 1;
      if (left > 0) pending.set(id, left);
      else pending.delete(id);
    }
    if (answer) take(answer, shootId);
    // Not journalled: what is on screen must not pretend it was.
    else void reload();
  });
}

/** Sends an action in its turn, and shows what it changed. */
export async function send(shootId: number, request: () => Promise<Marked>) {
  const answer = await inTurn(request);
  if (answer) take(answer, shootId);
}

/** Picks the lead of a frame's group; with `rejectRest` the others are rejected. Undone as one. */
export function acceptLead(frame: number | null, rejectRest: boolean) {
  if (frame === null) return;
  const { shootId } = get();
  void send(shootId, () =>
    api
      .POST("/api/shoots/{shoot_id}/accept-lead", {
        keepalive: true,
        params: { path: { shoot_id: shootId } },
        body: { frame_id: frame, reject_rest: rejectRest },
      })
      .then(unwrap),
  );
}

export function undoMark() {
  walk("undo");
}

export function redoMark() {
  walk("redo");
}

function walk(way: "undo" | "redo") {
  const { shootId, active: before } = get();
  let nothing = false;
  void inTurn(async () => {
    // Which action is meant is known only when it is this one's turn: the keys before it may have added some.
    const step = get()[way];
    nothing = step === null;
    if (!step) return undefined;
    const wish = {
      keepalive: true,
      params: { path: { shoot_id: shootId } },
      body: { batch: step.batch },
    };
    return way === "undo"
      ? api.POST("/api/shoots/{shoot_id}/undo", wish).then(unwrap)
      : api.POST("/api/shoots/{shoot_id}/redo", wish).then(unwrap);
  }).then(async (answer) => {
    if (nothing) set({ lastAction: `nothing to ${way}` });
    else if (!answer) void catchUp();
    if (!answer) return;
    take(answer, shootId, `${way === "undo" ? "undone" : "redone"}: ${answer.title}`);
    await refreshView();
    const first = answer.frames[0]?.id;
    // Whoever has gone on meanwhile is not called back.
    if (first !== undefined && get().places.has(first) && get().active === before) activate(first);
  });
}

let ownRevision = 0;

/** The shoot changed on the server: if it was not by this window, what undo would act on has changed too. */
export function noteChange(revision: number) {
  if (!sending && revision > ownRevision) void inTurn(loadActions);
}

async function catchUp() {
  await inTurn(loadActions);
  await refresh();
}

function take(answer: Marked, shootId: number, said = answer.title) {
  if (get().shootId !== shootId) return;
  ownRevision = answer.revision;
  const frames = new Map(get().frames);
  for (const { id, decision, rating, label } of answer.frames) {
    const frame = frames.get(id);
    if (frame && !pending.has(id)) frames.set(id, { ...frame, decision, rating, label });
  }
  set({ frames, undo: answer.actions.undo, redo: answer.actions.redo, lastAction: said ?? get().lastAction });
  void refreshView();
}

async function reload() {
  set({ revision: 0 });
  await refresh();
}
