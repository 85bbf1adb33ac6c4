/** What passes the filter, and what stays in view although it no longer does: a frame leaves when the person goes on,
 * never by itself between two keys. */

import { api, unwrap, type View, type ViewChange } from "../api/client";
import { attempt, tell } from "./errors";
import { EVERYTHING, type Filter, queryOf, switched, toggled } from "./filter";
import { filterInForce } from "./filterInForce";
import { placeOf } from "./places";
import { type ShootState, useShoot } from "./store";
import { shownOtherwise } from "./told";
import { recounted } from "./waiting";
import { groupsAsked, inWalk } from "./walk/store";

const { getState: get, setState: set } = useShoot;

/** Frames that were marked since the person went on last. */
const touched = new Set<number>();
/** The filter that the view on screen was made for. */
let shownFor: string | null = null;
/** An answer from before this revision, which was under way while something was marked here, does not know of it. */
let leastRevision = 0;

export function forgetView() {
  touched.clear();
  shownFor = null;
  leastRevision = 0;
}

/** Frames that the person just marked stay until they go on. */
export function touch(ids: Iterable<number>) {
  for (const id of ids) touched.add(id);
}

export function expectRevision(revision: number) {
  leastRevision = revision;
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
  const { shootId } = get();
  await understood(get());
  const wanted = filterInForce(get());
  const view = await attempt(() =>
    api
      .GET("/api/shoots/{shoot_id}/view", {
        params: { path: { shoot_id: shootId }, query: queryOf(wanted) },
      })
      .then(unwrap),
  );
  if (!view || get().shootId !== shootId) return;
  const isStale = view.revision < leastRevision;
  leastRevision = 0; // whatever is asked from now on knows of it
  if (isStale) viewAgain = true;
  else takeView(view, view.show);
}

/** A sentence that nobody took apart yet, as from an address: what it asks for, or everything, and why. */
async function understood({ filter, filterOn, shootId }: ShootState) {
  if (!filterOn || !filter.show || filter.parts.length) return;
  const params = { path: { shoot_id: shootId }, query: { text: filter.show } };
  const typed = await attempt(() => api.GET("/api/shoots/{shoot_id}/filter", { params }).then(unwrap));
  if (!typed || get().filter !== filter) return;
  if (typed.problem) tell(new Error(`The filter in the address: ${typed.problem.message}`));
  set({ filter: typed.parts ? { show: typed.show ?? "", parts: typed.parts } : EVERYTHING });
}

/** Takes over what a change made of the view through a filter. Returns whether that is the view on screen. Nothing else
 * may have changed since that was fetched. */
export function takeChange(
  changed: number[],
  { passing: found, ...counts }: ViewChange,
  seenBy: Filter,
): boolean {
  const { visible, places, leaving, view } = get();
  const { show } = filterInForce(get());
  if (!view || viewing || seenBy.show !== shownFor || seenBy.show !== show) return false;
  const passing = askedAmong(found);
  const passes = new Set(passing);
  if (changed.every((id) => passes.has(id) === (places.has(id) && !leaving.has(id)))) {
    set({ view: { ...view, ...counts, tally: recounted(counts.tally, shownOtherwise()) } });
    return true;
  }
  const isChanged = new Set(changed);
  const others = visible.filter((id) => !leaving.has(id) && !isChanged.has(id));
  takeView({ ...view, ...counts, ids: inOrder([...others, ...passing]) }, show);
  return true;
}

function takeView({ ids, ...view }: View, wanted: string) {
  const { active, selection, visible: before, places: placesBefore } = get();
  const passing = askedAmong(ids);
  const leaving = wanted === shownFor && !sameIds(passing, before) ? staying(passing) : [];
  shownFor = wanted;
  const found = leaving.length ? inOrder([...passing, ...leaving]) : passing;
  // Most marks leave the view as it is: then nothing that rests on it is made anew.
  const same = sameIds(found, before);
  const visible = same ? before : found;
  const places = same ? placesBefore : placesIn(visible);
  set({
    view: { ...view, tally: recounted(view.tally, shownOtherwise()) },
    visible,
    places,
    leaving: new Set(leaving),
    active: active !== null && places.has(active) ? active : nearest(active, visible),
    selection: within(selection, places),
  });
}

/** Those of some frames that are known here, and that a pass one is in asks about. */
function askedAmong(ids: number[]): number[] {
  const { frames } = get();
  const besides = groupsAsked(frames);
  return ids.filter((id) => {
    const frame = frames.get(id);
    return frame && inWalk(frame, besides);
  });
}

/** Frames in view that no longer pass, and that the person is at or has just marked. */
function staying(passing: number[]): number[] {
  const { active, selection, visible } = get();
  const passes = new Set(passing);
  return visible.filter((id) => !passes.has(id) && (id === active || selection.has(id) || touched.has(id)));
}

function sameIds(some: number[], others: number[]): boolean {
  return some.length === others.length && some.every((id, at) => id === others[at]);
}

function inOrder(ids: number[]): number[] {
  const { frames } = get();
  const position = (id: number) => frames.get(id)?.position ?? 0;
  return ids.sort((a, b) => position(a) - position(b) || a - b);
}

function placesIn(visible: number[]): Map<number, number> {
  return new Map(visible.map((id, place) => [id, place]));
}

function within(selection: ReadonlySet<number>, places: Map<number, number>): ReadonlySet<number> {
  if ([...selection].every((id) => places.has(id))) return selection;
  return new Set([...selection].filter((id) => places.has(id)));
}

/** The next of some frames in capture order, else the last. Of a shoot that was just opened, the one that was looked
 * at last. */
function nearest(active: number | null, among: number[]): number | null {
  const { frames, shootId } = get();
  const from = frames.get(active ?? placeOf(shootId) ?? -1);
  const position = from?.position ?? 0;
  return among.find((id) => (frames.get(id)?.position ?? 0) >= position) ?? among.at(-1) ?? null;
}

type Parts = Pick<ShootState, "visible" | "places" | "leaving" | "selection">;

/** What changes in view when the person goes on to a frame: those that were leaving leave. */
export function goneOn(to: number | null): Partial<Parts> {
  touched.clear();
  const { leaving, visible: before, selection } = get();
  const gone = (id: number) => leaving.has(id) && id !== to;
  if (![...leaving].some(gone)) return {};
  const visible = before.filter((id) => !gone(id));
  const places = placesIn(visible);
  const left = new Set([...leaving].filter((id) => id === to));
  return { visible, places, leaving: left, selection: within(selection, places) };
}

/** Where to go when there is nowhere to go on to: away from a frame that is leaving, else nowhere. */
export function wayOut(): number | null {
  const { active, leaving, visible } = get();
  if (active === null || !leaving.has(active)) return active;
  return nearest(
    active,
    visible.filter((id) => !leaving.has(id)),
  );
}

export function setFilter(filter: Filter) {
  set({ filter, filterOn: true });
  void refreshView();
}

/** Asks for something beside what is asked for, or for it no more. Of figures one range is asked for. */
export function toggleFilterPart(facet: string, title: string, phrase: string, alone = false) {
  const { filter } = get();
  setFilter((alone ? switched : toggled)(filter, facet, title, phrase));
}

/** All frames and back to the filter, which is kept. */
export function toggleFilter() {
  set({ filterOn: !get().filterOn });
  void refreshView();
}
