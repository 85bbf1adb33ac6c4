/** Going through a shoot with a pass: beginning, going on, leaving and coming back, the end. */

import { api, atOnce, newKey, underKey, unwrap } from "../../api/client";
import { onReconnect } from "../../api/events";
import { loadActions } from "../actions";
import { goToScreen } from "../address";
import { attempt } from "../errors";
import { refresh } from "../frames";
import { fillScreen, leaveFullScreen } from "../fullScreen";
import { line } from "../line";
import { activate } from "../moving";
import { useShoot } from "../store";
import { refreshView } from "../view";
import { Pace } from "./pace";
import { goesByFrames, isDone, NO_WALK, type OpenWalk, passNow, useWalk } from "./store";

const { getState: get, setState: set } = useWalk;

/** The server is told no more often than this how far one is. */
const TOLD_MS = 1000;

let pace = new Pace(0);
/** Gone on from since the server was told last. */
let untold = new Set<number>();
let timer: ReturnType<typeof setTimeout> | undefined;
/** The person has arrived where the pass begins: what they were at before is not gone on from. */
let isThere = false;

/** Begins to go through the shoot with a pass. */
export async function beginPass(name: string, warnedFirst: boolean | null = null) {
  const { shootId } = useShoot.getState();
  await leaveWalk();
  const walk = await attempt(() =>
    api
      .POST("/api/shoots/{shoot_id}/passes", {
        params: { path: { shoot_id: shootId } },
        headers: underKey(newKey()),
        body: { name, warned_first: warnedFirst },
      })
      .then(unwrap),
  );
  if (walk) await enter(walk);
}

/** Goes on with a pass where it was left. */
export async function resumeWalk(walkId: number) {
  const { shootId } = useShoot.getState();
  if (get().walk?.id === walkId) return;
  await leaveWalk();
  const walk = await attempt(() =>
    api
      .GET("/api/shoots/{shoot_id}/passes/{walk_id}", {
        params: { path: { shoot_id: shootId, walk_id: walkId } },
      })
      .then(unwrap),
  );
  if (walk) await enter(walk);
}

async function enter(walk: OpenWalk) {
  untold = new Set();
  pace = new Pace(performance.now());
  isThere = false;
  set({
    ...NO_WALK,
    walk,
    places: new Map(walk.frames.map((id, place) => [id, place])),
    seen: new Set(walk.seen_frames),
  });
  useShoot.setState({ selection: new Set(), lastAction: null });
  goToScreen("bench");
  // What frames start as is known from here.
  await refresh();
  await refreshView();
  await loadActions();
  if (get().walk !== walk) return;
  const { ids, places } = line();
  const at =
    walk.frame !== null && places.has(walk.frame) ? walk.frame : ids.find((id) => get().places.has(id));
  if (at !== undefined) activate(at);
  isThere = true;
  if (walk.definition.full) void fillScreen();
}

/** Leaves the pass; one comes back to where one was. */
export async function leaveWalk() {
  const { walk, ended } = get();
  if (!walk) return;
  const told = tellServer(ended);
  set(NO_WALK);
  if (walk.definition.full) leaveFullScreen();
  await refreshView();
  await told;
}

/** How far one is, and how fast. */
export function howFar() {
  const { walk, seen } = get();
  const { frames } = useShoot.getState();
  if (!walk) return null;
  const { definition } = walk;
  const done =
    definition.done === "seen"
      ? seen.size
      : walk.frames.filter((id) => {
          const frame = frames.get(id);
          return frame && isDone(definition, frame, seen);
        }).length;
  const perMinute = pace.perMinute(performance.now());
  const left = walk.frames.length - done;
  return { done, total: walk.frames.length, perMinute, minutesLeft: perMinute && left / perMinute };
}

// What is gone on from is seen: a frame, or the whole group where one goes by groups.
useShoot.subscribe((now, before) => {
  const pass = passNow();
  if (
    !pass ||
    !isThere ||
    now.active === before.active ||
    before.active === null ||
    now.shootId !== before.shootId
  )
    return;
  const was = before.frames.get(before.active);
  if (goesByFrames(pass)) noteSeen([before.active]);
  else if (was && was.group !== now.frames.get(now.active ?? -1)?.group) noteSeen(askedInGroup(was.group));
  else noteSeen([]);
});

/** The frames of a group that the pass asks about. */
export function askedInGroup(group: number): number[] {
  const { frames } = useShoot.getState();
  return (get().walk?.frames ?? []).filter((id) => frames.get(id)?.group === group);
}

/** The person has gone on from frames. */
export function noteSeen(ids: number[]) {
  const { seen, places, ended } = get();
  const fresh = ids.filter((id) => places.has(id) && !seen.has(id));
  pace.note(performance.now(), fresh.length);
  if (fresh.length) {
    for (const id of fresh) untold.add(id);
    set({ seen: new Set([...seen, ...fresh]) });
  }
  if (!ended) timer ??= setTimeout(() => void tellServer(false), TOLD_MS);
}

/** Tells the server how far one is. What it could not be told is told the next time. */
export async function tellServer(ended: boolean) {
  clearTimeout(timer);
  timer = undefined;
  const { walk } = get();
  if (!walk) return;
  const { shootId, active } = useShoot.getState();
  const told = untold;
  const seconds = pace.takeSeconds();
  untold = new Set();
  const body = { frame: active, seen: [...told], seconds, ended };
  try {
    await atOnce
      .PUT("/api/shoots/{shoot_id}/passes/{walk_id}", {
        params: { path: { shoot_id: shootId, walk_id: walk.id } },
        body,
        keepalive: told.size < 5000,
      })
      .then(unwrap);
    set({ told: get().told + 1 });
  } catch {
    for (const id of told) untold.add(id);
  }
}
onReconnect(() => {
  if (untold.size) void tellServer(get().ended);
});
globalThis.window?.addEventListener("pagehide", () => void tellServer(get().ended));
