/** The shoot on screen: its frames, the filter and what passes it, settings. */

import { create } from "zustand";
import {
  type ActionRef,
  api,
  type Decision,
  type Frame,
  type Progress,
  type RatingRule,
  unwrap,
  type View,
  type Warned,
} from "../api/client";

export interface Filter {
  decisions: Decision[];
  ratingRule: RatingRule | null;
  stars: number;
  /** Files that cannot be read, are damaged or have other marks on disk. */
  warned: boolean;
  /** Frames with any of these warnings of the evidence. */
  warnings: Warned[];
  faces: boolean | null;
  /** With or without other frames in their group. */
  similar: boolean | null;
  /** Frames whose content is in the shoot more than once. */
  copies: boolean;
}

export const EVERYTHING: Filter = {
  decisions: [],
  ratingRule: null,
  stars: 0,
  warned: false,
  warnings: [],
  faces: null,
  similar: null,
  copies: false,
};

export function showsAll(filter: Filter): boolean {
  return filter.decisions.length === 0 && !filter.ratingRule && !filter.warned && !looksFor(filter);
}

/** Whether the filter asks for anything that was measured or compared. */
export function looksFor({ warnings, faces, similar, copies }: Filter): boolean {
  return warnings.length > 0 || faces !== null || similar !== null || copies;
}

export interface ShootState {
  shootId: number;
  revision: number;
  loaded: boolean;
  frames: Map<number, Frame>;
  /** Grows when a frame changes its shape or place: a mark must not lay out the wall anew. */
  geometry: number;
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
  undo: ActionRef | null;
  redo: ActionRef | null;
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
  geometry: 0,
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

/** Selects the frame that the person is at. */
export function activeFrame({ active, frames }: ShootState): Frame | undefined {
  return active === null ? undefined : frames.get(active);
}

const { getState: get, setState: set } = useShoot;

export function openShoot(shootId: number) {
  if (get().shootId === shootId && get().loaded) return;
  set(blank(shootId), true);
  void refresh();
  void loadActions();
}

/** Asks what undo and redo would act on. */
export async function loadActions() {
  const { shootId } = get();
  const answer = await attempt(() =>
    api.GET("/api/shoots/{shoot_id}/actions", { params: { path: { shoot_id: shootId } } }).then(unwrap),
  );
  if (answer && get().shootId === shootId) set({ undo: answer.undo, redo: answer.redo });
}

/** Runs a request; an error becomes the message on screen, and the answer undefined. */
export async function attempt<T>(request: () => Promise<T>): Promise<T | undefined> {
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
      const answer = await attempt(() => fetchChanged(shootId, revision));
      if (!answer || get().shootId !== shootId) continue;
      const frames = new Map(revision ? get().frames : []);
      // A mark that was just set here and is still on its way counts more than an answer under way.
      let geometry = get().geometry;
      for (const frame of answer.frames) {
        if (!sameGeometry(frames.get(frame.id), frame)) geometry = get().geometry + 1;
        frames.set(frame.id, pending.has(frame.id) ? keepMarks(frame, frames) : frame);
      }
      set({ frames, geometry, revision: answer.revision, loaded: true });
      await refreshView();
    } while (again);
  } finally {
    refreshing = false;
  }
}

/** The frames that changed after a revision, page by page. Those that change on the way carry a later revision than
 * the first page, and come with the next question. */
async function fetchChanged(shootId: number, since: number) {
  const frames: Frame[] = [];
  let revision: number | undefined;
  for (let after = 0, more = true; more; after = frames.at(-1)?.id ?? 0) {
    const page = await api
      .GET("/api/shoots/{shoot_id}/frames", {
        params: { path: { shoot_id: shootId }, query: { since, after } },
      })
      .then(unwrap);
    frames.push(...page.frames);
    revision ??= page.revision;
    more = page.more;
  }
  return { frames, revision: revision ?? since };
}

function sameGeometry(before: Frame | undefined, after: Frame): boolean {
  return (
    before?.width === after.width &&
    before.height === after.height &&
    before.position === after.position &&
    before.scene === after.scene &&
    before.group === after.group
  );
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
            warning: wanted.warnings.length ? wanted.warnings : undefined,
            faces: wanted.faces ?? undefined,
            similar: wanted.similar ?? undefined,
            copies: wanted.copies,
          },
        },
      })
      .then(unwrap),
  );
  if (!view || get().shootId !== shootId) return;
  const { active, selection, frames, visible: before, places: placesBefore } = get();
  const found = view.ids.filter((id) => frames.has(id));
  // Most marks leave the view as it is: then nothing that rests on it is made anew.
  const same = found.length === before.length && found.every((id, at) => id === before[at]);
  const visible = same ? before : found;
  const places = same ? placesBefore : new Map(visible.map((id, place) => [id, place]));
  set({
    view,
    visible,
    places,
    active: stillActive(active, visible, places),
    selection: selection.size ? new Set([...selection].filter((id) => places.has(id))) : selection,
  });
}

/** The active frame if it is in view, else the next one in capture order, else the last. Of a shoot that was just
 * opened, the one that was looked at last. */
function stillActive(active: number | null, visible: number[], places: Map<number, number>): number | null {
  if (active === null) {
    const last = Number(localStorage.getItem(placeKey(get().shootId)));
    return places.has(last) ? last : (visible[0] ?? null);
  }
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

// The next time the shoot is opened in this browser, it opens where it was left.
useShoot.subscribe(({ active, shootId }, before) => {
  if (active !== null && active !== before.active) localStorage.setItem(placeKey(shootId), String(active));
});

function placeKey(shootId: number): string {
  return `winnow.place.${shootId}`;
}

export function setGoOn(goOn: boolean) {
  localStorage.setItem(GO_ON, goOn ? "yes" : "no");
  set({ goOn });
}

export function setWallSize(wallSize: number) {
  localStorage.setItem(WALL_SIZE, String(wallSize));
  set({ wallSize });
}

/** Frames whose marks were set here and are still on their way, with how many requests. */
export const pending = new Map<number, number>();

export function takeProgress(progress: Progress) {
  set({ progress });
}

export function dismissError() {
  set({ error: null });
}
