/** What is put on the stage and taken off it. Whatever changes the active frame changes what stands here: it is always
 * in sight. */

import { activate } from "../../shoot/moving";
import { putOnStage, useChosen } from "../../shoot/stage";
import { type ShootState, useShoot } from "../../shoot/store";
import { passNow } from "../../shoot/walk/store";
import { compared, stageNeighbour } from "./compared";
import { type Layout, useStage } from "./stageStore";

const { getState: get, setState: set } = useStage;

function comparedNow(shoot = useShoot.getState()): number[] {
  return compared(shoot, get(), useChosen.getState().chosen);
}

/** Follows the active frame for as long as the bench is on screen. Returns what ends that. */
export function openStage(): () => void {
  set({ open: true });
  if (useChosen.getState().chosen) set({ layout: "group", blink: false });
  keepInSight(useShoot.getState());
  const stop = useShoot.subscribe((now, before) => {
    if (now.active !== before.active || now.visible !== before.visible) keepInSight(now);
  });
  return () => {
    stop();
    useChosen.setState({ chosen: null });
    set({ open: false, aside: [], loupe: false });
  };
}

/** Brings the active frame on the stage, however it became that. */
function keepInSight(shoot: ShootState) {
  const { active, places } = shoot;
  const { layout, holder, challenger, aside } = get();
  const { chosen } = useChosen.getState();
  if (active === null) return;
  if (chosen && !chosen.includes(active)) useChosen.setState({ chosen: null });
  if (aside.includes(active)) set({ aside: aside.filter((id) => id !== active) });
  if (layout !== "two") return;
  if (passNow()?.beside_keeper) return set(pair(shoot));
  const stays = holder !== null && places.has(holder) && comparedNow(shoot).includes(holder);
  if (!stays) set(pair(shoot));
  else if (active !== holder && active !== challenger) set({ challenger: active });
  else if (challenger !== null && !places.has(challenger))
    set({ challenger: holder === null ? null : beside(holder, []) });
}

/** The active frame and one beside it: the lead, if that is another, else the next of the group; where the pass wants
 * it, the keeper or nothing. */
function pair(shoot: ShootState): { holder: number | null; challenger: number | null } {
  const { active, frames } = shoot;
  if (active === null) return { holder: null, challenger: null };
  const others = comparedNow(shoot).filter((id) => id !== active);
  if (passNow()?.beside_keeper) {
    const keeper = others.find((id) => frames.get(id)?.decision === "keep");
    return keeper === undefined
      ? { holder: active, challenger: null }
      : { holder: keeper, challenger: active };
  }
  const lead = others.find((id) => frames.get(id)?.lead);
  // The lead holds its place; the active one stays where it was looked at otherwise.
  if (lead !== undefined) return { holder: lead, challenger: active };
  return { holder: active, challenger: beside(active, []) };
}

/** Puts two frames on the stage where the layout is that already. */
export function pairUp() {
  if (get().layout === "two") set(pair(useShoot.getState()));
}

export function setLayout(layout: Layout) {
  set({ layout, blink: false });
  if (layout !== "two") return;
  set(pair(useShoot.getState()));
  if (useShoot.getState().active !== null && get().challenger === null) set({ layout: "one" });
}

/** The whole group; if other frames were put on the stage, back from them first. */
export function showGroup() {
  if (useChosen.getState().chosen) putOnStage(null);
  else setLayout("group");
}

/** Puts frames of any groups on the stage. */
export function showChosen(ids: number[]) {
  set({ layout: "group", blink: false, aside: [] });
  putOnStage(ids);
}

/** The other of two frames comes to the front, in the same spot. Asks for two frames first. */
export function flip() {
  if (get().layout !== "two") setLayout("two");
  const { holder, challenger, blink } = get();
  if (holder === null || challenger === null) return;
  if (!blink) return set({ blink: true });
  activate(useShoot.getState().active === holder ? challenger : holder);
}

export function swap() {
  const { layout, holder, challenger } = get();
  if (layout === "two" && challenger !== null) set({ holder: challenger, challenger: holder });
}

/** The challenger takes the place; the next one of the group challenges it. */
export function takePlace() {
  const { layout, holder, challenger } = get();
  if (layout !== "two" || challenger === null) return;
  const next = beside(challenger, [holder]) ?? holder;
  set({ holder: challenger, challenger: next });
  activate(next);
}

/** Takes a frame off the stage; another of those that are compared comes in its place. */
export function layAside(id: number) {
  const { aside, holder, challenger, layout } = get();
  const isPaired = layout === "two" && (id === holder || id === challenger);
  const stays = isPaired ? (id === holder ? challenger : holder) : null;
  const next = beside(id, [stays]);
  set({ aside: [...aside.filter((other) => other !== id), id] });
  if (isPaired && stays !== null && next !== null) set({ holder: stays, challenger: next });
  else if (isPaired) set({ layout: "group", blink: false });
  const on = next ?? stays ?? stageNeighbour(1) ?? stageNeighbour(-1);
  if (useShoot.getState().active === id && on !== null) activate(on);
}

/** The next one of those that are compared after a frame, else the last before it, but none of some. */
function beside(id: number, but: (number | null)[]): number | null {
  const among = comparedNow().filter((one) => one === id || !but.includes(one));
  const at = among.indexOf(id);
  return among[at + 1] ?? among[at - 1] ?? null;
}

/** Puts back what left last. */
export function putBack() {
  const { aside } = get();
  const last = aside.at(-1);
  if (last === undefined) return;
  set({ aside: aside.slice(0, -1) });
  if (useShoot.getState().places.has(last)) activate(last);
}

/** Goes to the next run of a group that is too long for the stage. */
export function goRun(by: 1 | -1, at: number) {
  const { active } = useShoot.getState();
  const ids = comparedNow();
  if (active === null) return;
  const { length } = get();
  const run = Math.floor(Math.max(0, ids.indexOf(active)) / length);
  const to = ids[(run + by) * length];
  if (to !== undefined) activate(to, at);
}
