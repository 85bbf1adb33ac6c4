/** What stands on the stage and how it is looked at. */

import { create } from "zustand";
import type { Frame } from "../api/client";
import { asked } from "../perf";
import { type ShootState, useShoot } from "../shoot/store";
import { type Aim, type Found, type Point, WHOLE } from "./aim";

export type Layout = "group" | "two" | "one";
export type Overlay = "map" | "peaking" | "clipping";

interface StageState {
  /** The bench is on screen: steps keep to what is on the stage. */
  open: boolean;
  layout: Layout;
  /** Frames of any groups that were put on the stage; null: the group of the active frame. */
  chosen: number[] | null;
  /** Taken off the stage, the last one last. */
  aside: number[];
  /** Rejects leave the stage as they are marked. */
  keptOnly: boolean;
  /** Two frames: the one that holds its place, the one beside it, and whether both stand in one spot. */
  holder: number | null;
  challenger: number | null;
  blink: boolean;
  aim: Aim;
  follow: boolean;
  /** Where other frames show the point that is looked at. */
  found: Map<number, Found>;
  overlays: Record<Overlay, boolean>;
  loupe: boolean;
  /** The face table is wide. */
  table: boolean;
}

const FOLLOW = "winnow.follow";

export const useStage = create<StageState>(() => ({
  open: false,
  layout: "group",
  chosen: null,
  aside: [],
  keptOnly: false,
  holder: null,
  challenger: null,
  blink: false,
  aim: WHOLE,
  follow: localStorage.getItem(FOLLOW) !== "no",
  found: new Map(),
  overlays: { map: false, peaking: false, clipping: false },
  loupe: false,
  table: false,
}));

const { getState: get, setState: set } = useStage;

type Shoot = Pick<ShootState, "frames" | "visible" | "places" | "active">;

/** Whether a frame may stand on the stage. */
function stands(frame: Frame | undefined, stage: StageState): boolean {
  if (!frame || stage.aside.includes(frame.id)) return false;
  return !stage.keptOnly || frame.decision !== "reject";
}

/** The frames that are compared, in order: what was chosen, or the active frame's group, without what left. */
export function compared(shoot: Shoot, stage: StageState, active = shoot.active): number[] {
  const { frames, visible, places } = shoot;
  if (stage.chosen) return stage.chosen.filter((id) => places.has(id) && stands(frames.get(id), stage));
  if (active === null) return [];
  const group = frames.get(active)?.group;
  const at = places.get(active) ?? 0;
  let from = at;
  let to = at;
  while (from > 0 && frames.get(visible[from - 1] ?? -1)?.group === group) from--;
  while (to + 1 < visible.length && frames.get(visible[to + 1] ?? -1)?.group === group) to++;
  return visible.slice(from, to + 1).filter((id) => id === active || stands(frames.get(id), stage));
}

/** The frame a step leads to: over what left the stage, and on into the next group. */
export function stageNeighbour(by: 1 | -1): number | null {
  const shoot = useShoot.getState();
  const { active, visible, places, frames } = shoot;
  const stage = get();
  const line = stage.chosen ? compared(shoot, stage) : visible;
  if (active === null) return line[0] ?? null;
  const at = stage.chosen ? line.indexOf(active) : (places.get(active) ?? -1);
  for (let place = at + by; place >= 0 && place < line.length; place += by) {
    const id = line[place];
    if (id !== undefined && id !== (stage.layout === "two" ? stage.holder : null)) {
      if (stands(frames.get(id), stage)) return id;
    }
  }
  return null;
}

export function setLayout(layout: Layout) {
  const shoot = useShoot.getState();
  const { active } = shoot;
  if (layout !== "two") return set({ layout, blink: false });
  set({ layout, blink: false, ...pair(shoot) });
  if (active !== null && get().challenger === null) set({ layout: "one" });
}

/** The active frame and one beside it: the lead, if that is another, else the next of the group. */
function pair(shoot: Shoot): { holder: number | null; challenger: number | null } {
  const { active, frames } = shoot;
  if (active === null) return { holder: null, challenger: null };
  const others = compared(shoot, get()).filter((id) => id !== active);
  const lead = others.find((id) => frames.get(id)?.lead);
  const after = others.find((id) => (frames.get(id)?.position ?? 0) > (frames.get(active)?.position ?? 0));
  const other = lead ?? after ?? others.at(-1) ?? null;
  // The lead holds its place; the active one stays where it was looked at otherwise.
  return lead !== undefined ? { holder: lead, challenger: active } : { holder: active, challenger: other };
}

/** The other of two frames comes to the front, in the same spot. Asks for two frames first. */
export function flip() {
  const { layout, blink } = get();
  if (layout !== "two") setLayout("two");
  const { holder, challenger } = get();
  if (holder === null || challenger === null) return;
  if (!blink) return set({ blink: true });
  const { active } = useShoot.getState();
  useShoot.setState({ active: active === holder ? challenger : holder });
}

export function swap() {
  const { layout, holder, challenger } = get();
  if (layout === "two") set({ holder: challenger, challenger: holder });
}

/** The challenger takes the place; the next one challenges it. */
export function takePlace() {
  const { layout, challenger } = get();
  if (layout !== "two" || challenger === null) return;
  useShoot.setState({ active: challenger });
  const next = stageNeighbour(1) ?? stageNeighbour(-1);
  set({ holder: challenger, challenger: next });
  if (next !== null) useShoot.setState({ active: next });
}

/** A step left or right in the two-frame layout: another challenger. */
export function challenge(id: number) {
  const { holder } = get();
  if (id !== holder) set({ challenger: id });
}

/** Takes the active frame off the stage. Returns whether another took its place as the active one. */
export function layAside(id: number) {
  const next = stageNeighbour(1) ?? stageNeighbour(-1);
  const { aside, holder, challenger, layout } = get();
  set({ aside: [...aside.filter((other) => other !== id), id] });
  if (layout === "two" && (id === holder || id === challenger)) {
    const stays = id === holder ? challenger : holder;
    set({ holder: stays, challenger: next === stays ? null : next });
    if (get().challenger === null) set({ layout: "group", blink: false });
  }
  if (useShoot.getState().active === id && next !== null) useShoot.setState({ active: next });
}

/** Puts back what left last. */
export function putBack() {
  const { aside } = get();
  const last = aside.at(-1);
  if (last === undefined) return;
  set({ aside: aside.slice(0, -1) });
  if (useShoot.getState().places.has(last)) useShoot.setState({ active: last });
}

export function toggleKeptOnly() {
  set({ keptOnly: !get().keptOnly });
}

/** Puts frames of any groups on the stage; null: back to the group. */
export function choose(ids: number[] | null) {
  set({ chosen: ids && ids.length > 0 ? ids : null, layout: "group", blink: false, aside: [] });
  const first = ids?.[0];
  if (first !== undefined && !ids?.includes(useShoot.getState().active ?? -1))
    useShoot.setState({ active: first });
}

export function setFollow(follow: boolean) {
  localStorage.setItem(FOLLOW, follow ? "yes" : "no");
  set({ follow });
}

export function toggleOverlay(overlay: Overlay) {
  const { overlays } = get();
  set({ overlays: { ...overlays, [overlay]: !overlays[overlay] } });
}

export function resetOffsets() {
  set({ aim: { ...get().aim, offsets: new Map(), drift: { x: 0, y: 0 } } });
}

/** Looks at a point of a frame (px of the full picture) at a scale. */
export function aimAt(frame: number, point: Point, scale: number | "fit", subject: boolean, at?: number) {
  if (at !== undefined && scale !== "fit") {
    asked("winnow:zoom-preview", at, frame);
    asked("winnow:zoom-pixels", at, frame);
  }
  const { aim, found } = get();
  const same = aim.frame === frame && aim.point.x === point.x && aim.point.y === point.y;
  set({
    aim: { scale, frame, point, subject, drift: { x: 0, y: 0 }, offsets: same ? aim.offsets : new Map() },
    found: same ? found : new Map(),
  });
}

export function setAim(aim: Aim) {
  set({ aim });
}

/** Where the pointer is: over which frame, and at which point of it. */
export const pointer: { frame: number | null; point: Point | null } = { frame: null, point: null };
