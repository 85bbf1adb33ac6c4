/** What the person says of frames, whether by key, on the frame itself or with a stroke: the same rules for all. */

import type { Decision } from "../api/client";
import { type MarkKind, settings } from "../ui/settings";
import { labelId } from "./labels";
import { mark } from "./marking";
import { nextOpenGroup, nextOpenInGroup, nextUndecided } from "./moving";
import { useShoot } from "./store";
import { latest } from "./underWay";
import type { MarkValues } from "./waiting";
import { goesOnIn, permits } from "./walk/permits";
import { passNow } from "./walk/store";

/** The frames that a mark on this one acts on: all that is selected, if it is among it. */
export function scopeWith(id: number): number[] {
  const { selection } = useShoot.getState();
  return selection.has(id) ? [...selection] : [id];
}

/** as: set as it is, whatever is there already. */
export function decide(decision: Decision, at: number, ids: number[], as = false) {
  const clears = !as && again("decision") && decision !== "undecided" && all(ids, "decision", decision);
  mark({ decision: clears ? "undecided" : decision }, at, ids);
}

export function rate(rating: number, at: number, ids: number[], as = false) {
  const now = !as && again("rating") && rating > 0 && all(ids, "rating", rating) ? 0 : rating;
  if (!settings().starKeeps || !permits("decision")) return mark({ rating: now }, at, ids);
  if (now > 0) return mark({ rating: now, decision: "keep" }, at, ids);
  // What has no stars has none to lose: its decision stays.
  const rated = ids.filter((id) => latest(id)?.rating);
  mark({ rating: 0, decision: "undecided" }, at, rated);
}

/** Labels frames; null takes labels off. */
export function label(text: string | null, at: number, ids: number[], as = false) {
  const has = !as && ids.every((id) => labelId(latest(id)?.label ?? null) === text);
  mark({ label: again("label") && has ? null : text }, at, ids);
}

/** Turns pictures by a quarter. */
export function turn(way: "left" | "right", at: number, ids: number[]) {
  mark({ turn: way }, at, ids);
}

function again(kind: MarkKind): boolean {
  return settings().againClears.includes(kind);
}

function all<K extends keyof MarkValues>(ids: number[], name: K, value: MarkValues[K]): boolean {
  return ids.every((id) => latest(id)?.[name] === value);
}

/** Whether the next frame comes by itself after a mark of a kind: as the pass says that one is in, else as is set. */
export function goesOnAfter(kind: MarkKind, decision?: Decision): boolean {
  const { goOn, goOnAfter } = settings();
  return goesOnIn(decision ?? (kind as "rating" | "label")) ?? (goOn && goOnAfter.includes(kind));
}

/** Where going on leads. step: what the screen calls the next frame. */
export function whereTo(step: () => number | null): number | null {
  const { goOnTo } = settings();
  if (passNow()) return step();
  if (goOnTo === "undecided") return nextUndecided();
  if (goOnTo === "group") return nextOpenInGroup() ?? nextOpenGroup();
  return step();
}
