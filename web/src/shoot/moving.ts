/** Where the person is, and where steps lead. */

import { atOnce } from "../api/client";
import { asked } from "../ui/timing";
import { line } from "./line";
import { isPreparing, useShoot } from "./store";
import { latest } from "./underWay";
import { goneOn, wayOut } from "./view";
import { isAsked } from "./walk/store";

const { getState: get, setState: set } = useShoot;

/** The server is told no more often than this where the person looks. */
const LOOK_EVERY_MS = 150;

let lookTimer: ReturnType<typeof setTimeout> | undefined;
let lookedAt = 0;

/** Tells the server where the person looks, also while they go on faster than it is told: what is near is prepared
 * first, as long as anything is. */
export function lookAt(id: number) {
  lookedAt = id;
  if (!isPreparing(get().progress)) return;
  lookTimer ??= setTimeout(() => {
    lookTimer = undefined;
    const { shootId, frames } = get();
    const position = frames.get(lookedAt)?.position;
    if (position === undefined) return;
    const wish = { params: { path: { shoot_id: shootId } }, body: { position } };
    atOnce.POST("/api/shoots/{shoot_id}/look", wish).catch(() => undefined);
  }, LOOK_EVERY_MS);
}

/** Goes to a frame. Where there is none to go to, a frame that no longer passes the filter is left all the same. */
export function activate(id: number | null, at = performance.now()) {
  const { active } = get();
  const to = id ?? wayOut();
  if (to === active) return;
  if (to !== null) {
    asked("winnow:show-frame", at, to);
    if (groupOf(to) !== groupOf(active)) asked("winnow:show-group", at, to);
    lookAt(to);
  }
  set({ ...goneOn(to), active: to });
}

function groupOf(id: number | null): number | undefined {
  return id === null ? undefined : get().frames.get(id)?.group;
}

/** The frame in view `by` steps away from the active one, in the order on screen. */
export function neighbour(by: number): number | null {
  const { active } = get();
  const { ids, places } = line();
  if (active === null) return ids[0] ?? null;
  return ids[(places.get(active) ?? -1) + by] ?? null;
}

/** The first visible frame of the next (+1) or previous (−1) group. */
export function groupNeighbour(by: 1 | -1): number | null {
  const { active, visible, places, frames } = get();
  if (active === null) return visible[0] ?? null;
  const groupAt = (place: number) => frames.get(visible[place] ?? -1)?.group;
  let place = places.get(active) ?? 0;
  const here = groupAt(place);
  if (by > 0) {
    while (place < visible.length && (groupAt(place) === here || !isAsked(visible[place] ?? -1))) place++;
    return visible[place] ?? null;
  }
  while (place >= 0 && (groupAt(place) === here || !isAsked(visible[place] ?? -1))) place--;
  if (place < 0) return visible.find(isAsked) ?? null;
  const before = groupAt(place);
  while (place > 0 && groupAt(place - 1) === before) place--;
  return visible.slice(place).find(isAsked) ?? null;
}

/** The first visible frame of the next group in which something is undecided, from the active one on and round. */
export function nextOpenGroup(): number | null {
  const { active, visible, places } = get();
  const here = groupOf(active);
  const start = active === null ? 0 : (places.get(active) ?? 0);
  const open = firstFrom(start, (id) => groupOf(id) !== here && latest(id)?.decision === "undecided");
  if (open === null) return null;
  let place = places.get(open) ?? 0;
  while (groupOf(visible[place - 1] ?? -1) === groupOf(open)) place--;
  return visible[place] ?? null;
}

/** The next undecided frame of the group, from the active one on and round. */
export function nextOpenInGroup(): number | null {
  const { active, places } = get();
  const here = groupOf(active);
  const start = active === null ? 0 : (places.get(active) ?? 0) + 1;
  const isOpen = (id: number) => groupOf(id) === here && latest(id)?.decision === "undecided";
  return firstFrom(start, (id) => id !== active && isOpen(id));
}

/** The first visible frame of the next (+1) or previous (−1) scene. */
export function sceneNeighbour(by: 1 | -1): number | null {
  const { active, visible, places, frames } = get();
  const sceneAt = (place: number) => frames.get(visible[place] ?? -1)?.scene;
  if (active === null) return visible[0] ?? null;
  const here = frames.get(active)?.scene;
  let place = places.get(active) ?? 0;
  while (sceneAt(place) === here) place += by;
  const there = sceneAt(place);
  if (there === undefined) return null;
  while (by < 0 && sceneAt(place - 1) === there) place--;
  return visible[place] ?? null;
}

/** The next undecided frame in view, from the active one on and round. */
export function nextUndecided(): number | null {
  const { active } = get();
  const { ids, places } = line();
  const start = active === null ? 0 : (places.get(active) ?? 0) + 1;
  return firstFrom(start, (id) => latest(id)?.decision === "undecided" && id !== active, ids);
}

/** The first frame of a kind from a place on, and round. */
function firstFrom(start: number, isIt: (id: number) => boolean, among = get().visible): number | null {
  for (let step = 0; step < among.length; step++) {
    const id = among[(start + step) % among.length];
    if (id !== undefined && isIt(id)) return id;
  }
  return null;
}
