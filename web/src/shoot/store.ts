/** The shoot on screen: its frames, what is in view, where the person is, what the next key acts on. */

import { create } from "zustand";
import {
  api,
  type Decision,
  type Frame,
  type Marked,
  type Progress,
  type RatingRule,
  unwrap,
  type View,
} from "../api/client";
import { asked } from "../perf";

export interface Filter {
  decisions: Decision[];
  ratingRule: RatingRule | null;
  stars: number;
  warned: boolean;
}

export const EVERYTHING: Filter = { decisions: [], ratingRule: null, stars: 0, warned: false };

export function showsAll(filter: Filter): boolean {
  return filter.decisions.length === 0 && !filter.ratingRule && !filter.warned;
}

export interface MarkValues {
  decision?: Decision;
  rating?: number;
}

interface ShootState {
  shootId: number;
  revision: number;
  loaded: boolean;
  frames: Map<number, Frame>;
  view: View | null;
  /** Ids that pass the filter, in capture order. */
  visible: number[];
  /** Place of each visible id in `visible`. */
  places: Map<number, number>;
  filter: Filter;
  /** Off: the filter is kept but everything is shown. */
  filterOn: boolean;
  active: number | null;
  selection: Set<number>;
  /** Where a range selection starts. */
  anchor: number | null;
  goOn: boolean;
  /** Height of the pictures on the wall, px. */
  wallSize: number;
  undo: string | null;
  redo: string | null;
  lastAction: string | null;
  progress: Progress | null;
  error: string | null;
}

const GO_ON = "winnow.go-on";
const WALL_SIZE = "winnow.wall-size";

const blank = (shootId: number): ShootState => ({
  shootId,
  revision: 0,
  loaded: false,
  frames: new Map(),
  view: null,
  visible: [],
  places: new Map(),
  filter: EVERYTHING,
  filterOn: true,
  active: null,
  selection: new Set(),
  anchor: null,
  goOn: localStorage.getItem(GO_ON) === "yes",
  wallSize: Number(localStorage.getItem(WALL_SIZE)) || 150,
  undo: null,
  redo: null,
  lastAction: null,
  progress: null,
  error: null,
});

export const useShoot = create<ShootState>(() => blank(0));

const { getState: get, setState: set } = useShoot;

export function openShoot(shootId: number) {
  if (get().shootId === shootId && get().loaded) return;
  set(blank(shootId), true);
  void refresh();
  void loadActions();
}

async function loadActions() {
  const { shootId } = get();
  const answer = await attempt(() =>
    api.GET("/api/shoots/{shoot_id}/actions", { params: { path: { shoot_id: shootId } } }).then(unwrap),
  );
  if (answer && get().shootId === shootId) set({ undo: answer.undo, redo: answer.redo });
}

/** Runs a request; an error becomes the message on screen, and the answer undefined. */
async function attempt<T>(request: () => Promise<T>): Promise<T | undefined> {
  try {
    return await request();
  } catch (error) {
    set({
      error:
        error instanceof Error && error.name !== "TypeError"
          ? error.message
          : "Winnow does not answer: is it still running?",
    });
    return undefined;
  }
}

let refreshing = false;
let again = false;

/** Fetches what changed since the last answer. Calls that come meanwhile lead to one more fetch. */
export async function refresh() {
  if (refreshing) {
    again = true;
    return;
  }
  refreshing = true;
  try {
    do {
      again = false;
      const { shootId, revision } = get();
      const answer = await attempt(() =>
        api
          .GET("/api/shoots/{shoot_id}/frames", {
            params: { path: { shoot_id: shootId }, query: { since: revision } },
          })
          .then(unwrap),
      );
      if (!answer || get().shootId !== shootId) continue;
      const frames = new Map(revision ? get().frames : []);
      // A mark that was just set here and is still on its way counts more than an answer under way.
      for (const frame of answer.frames)
        frames.set(frame.id, pending.has(frame.id) ? keepMarks(frame, frames) : frame);
      set({ frames, revision: answer.revision, loaded: true });
      await refreshView();
    } while (again);
  } finally {
    refreshing = false;
  }
}

function keepMarks(frame: Frame, frames: Map<number, Frame>): Frame {
  const here = frames.get(frame.id);
  return here ? { ...frame, decision: here.decision, rating: here.rating } : frame;
}

let viewing: Promise<void> | null = null;
let viewAgain = false;

/** Asks which frames pass the filter; resolves when the newest question is answered. */
export function refreshView(): Promise<void> {
  viewAgain = true;
  viewing ??= (async () => {
    while (viewAgain) {
      viewAgain = false;
      await fetchView();
    }
    viewing = null;
  })();
  return viewing;
}

async function fetchView() {
  const { shootId, filter, filterOn } = get();
  const wanted = filterOn ? filter : EVERYTHING;
  const view = await attempt(() =>
    api
      .GET("/api/shoots/{shoot_id}/view", {
        params: {
          path: { shoot_id: shootId },
          query: {
            decision: wanted.decisions.length ? wanted.decisions : undefined,
            rating_rule: wanted.ratingRule ?? undefined,
            stars: wanted.stars,
            warned: wanted.warned,
          },
        },
      })
      .then(unwrap),
  );
  if (!view || get().shootId !== shootId) return;
  const visible = view.ids.filter((id) => get().frames.has(id));
  const places = new Map(visible.map((id, place) => [id, place]));
  const { active, selection } = get();
  set({
    view,
    visible,
    places,
    active: stillActive(active, visible, places),
    selection: selection.size ? new Set([...selection].filter((id) => places.has(id))) : selection,
  });
}

/** The active frame if it is in view, else the next one in capture order, else the last. */
function stillActive(active: number | null, visible: number[], places: Map<number, number>): number | null {
  if (active === null) return visible[0] ?? null;
  if (places.has(active)) return active;
  const { frames } = get();
  const position = frames.get(active)?.position ?? 0;
  return visible.find((id) => (frames.get(id)?.position ?? 0) >= position) ?? visible.at(-1) ?? null;
}

export function setFilter(change: Partial<Filter>) {
  set({ filter: { ...get().filter, ...change }, filterOn: true });
  void refreshView();
}

export function toggleDecision(decision: Decision) {
  const { decisions } = get().filter;
  setFilter({
    decisions: decisions.includes(decision)
      ? decisions.filter((d) => d !== decision)
      : [...decisions, decision],
  });
}

/** All frames and back to the filter, which is kept. */
export function toggleFilter() {
  set({ filterOn: !get().filterOn });
  void refreshView();
}

export function setGoOn(goOn: boolean) {
  localStorage.setItem(GO_ON, goOn ? "yes" : "no");
  set({ goOn });
}

export function setWallSize(wallSize: number) {
  localStorage.setItem(WALL_SIZE, String(wallSize));
  set({ wallSize });
}

let lookTimer: ReturnType<typeof setTimeout> | undefined;

export function activate(id: number | null, at = performance.now()) {
  if (id === null || id === get().active) return;
  asked("winnow:show-frame", at, id);
  set({ active: id });
  clearTimeout(lookTimer);
  lookTimer = setTimeout(() => {
    const { shootId, frames, active } = get();
    const position = active === null ? undefined : frames.get(active)?.position;
    if (position === undefined) return;
    void api.POST("/api/shoots/{shoot_id}/look", {
      params: { path: { shoot_id: shootId } },
      body: { position },
    });
  }, 150);
}

/** The visible frame `by` steps away from the active one. */
export function neighbour(by: number): number | null {
  const { active, visible, places } = get();
  if (active === null) return visible[0] ?? null;
  return visible[(places.get(active) ?? -1) + by] ?? null;
}

/** The first visible frame of the next (+1) or previous (−1) group. */
export function groupNeighbour(by: 1 | -1): number | null {
  const { active, visible, places, frames } = get();
  if (active === null) return visible[0] ?? null;
  const groupAt = (place: number) => frames.get(visible[place] ?? -1)?.group;
  let place = places.get(active) ?? 0;
  const here = groupAt(place);
  if (by > 0) {
    while (place < visible.length && groupAt(place) === here) place++;
    return visible[place] ?? null;
  }
  while (place >= 0 && groupAt(place) === here) place--;
  if (place < 0) return visible[0] ?? null;
  const before = groupAt(place);
  while (place > 0 && groupAt(place - 1) === before) place--;
  return visible[place] ?? null;
}

/** The next undecided frame in view, from the active one on and round. */
export function nextUndecided(): number | null {
  const { active, visible, places, frames } = get();
  const start = active === null ? 0 : (places.get(active) ?? 0) + 1;
  const ring = [...visible.slice(start), ...visible.slice(0, start)];
  return ring.find((id) => frames.get(id)?.decision === "undecided" && id !== active) ?? null;
}

export function select(ids: Iterable<number>, anchor?: number) {
  set({ selection: new Set(ids), anchor: anchor ?? get().anchor });
}

export function toggleSelected(id: number) {
  const { selection, active } = get();
  const next = new Set(selection.size || active === null ? selection : [active]);
  if (!next.delete(id)) next.add(id);
  set({ selection: next, anchor: id });
}

export function selectRange(to: number) {
  const { anchor, active, visible, places } = get();
  const from = anchor !== null && places.has(anchor) ? anchor : active;
  if (from === null) return;
  const [a, b] = [places.get(from) ?? 0, places.get(to) ?? 0];
  set({ selection: new Set(visible.slice(Math.min(a, b), Math.max(a, b) + 1)), anchor: from });
}

export function clearSelection() {
  set({ selection: new Set(), anchor: null });
}

/** What the next mark acts on: the selection where there is one, else the active frame. */
export function scope(): number[] {
  const { selection, active } = get();
  if (selection.size) return [...selection];
  return active === null ? [] : [active];
}

const pending = new Map<number, number>();
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

export function undoMark() {
  walk("undo");
}

export function redoMark() {
  walk("redo");
}

function walk(way: "undo" | "redo") {
  const { shootId } = get();
  void inTurn(() =>
    way === "undo"
      ? api
          .POST("/api/shoots/{shoot_id}/undo", { keepalive: true, params: { path: { shoot_id: shootId } } })
          .then(unwrap)
      : api
          .POST("/api/shoots/{shoot_id}/redo", { keepalive: true, params: { path: { shoot_id: shootId } } })
          .then(unwrap),
  ).then(async (answer) => {
    if (!answer) return;
    take(
      answer,
      shootId,
      answer.title ? `${way === "undo" ? "undone" : "redone"}: ${answer.title}` : `nothing to ${way}`,
    );
    await refreshView();
    const first = answer.frames[0]?.id;
    if (first !== undefined && get().places.has(first)) activate(first);
  });
}

function take(answer: Marked, shootId: number, said = answer.title) {
  if (get().shootId !== shootId) return;
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

export function takeProgress(progress: Progress) {
  set({ progress });
}

export function dismissError() {
  set({ error: null });
}

export function fail(message: string) {
  set({ error: message });
}
