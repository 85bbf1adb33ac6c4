/** Which frames are compared, and where a step leads among them. */

import type { Frame } from "../../api/client";
import { line } from "../../shoot/line";
import { useChosen } from "../../shoot/stage";
import { type ShootState, useShoot } from "../../shoot/store";
import { isAsked } from "../../shoot/walk/store";
import { type StageState, useStage } from "./stageStore";

export type Shoot = Pick<ShootState, "frames" | "visible" | "places" | "active">;
type Leaving = Pick<StageState, "aside" | "keptOnly">;

/** Whether a frame may stand on the stage. */
function stands(frame: Frame | undefined, stage: Leaving): boolean {
  if (!frame || stage.aside.includes(frame.id)) return false;
  return !stage.keptOnly || frame.decision !== "reject";
}

/** The frames that are compared, in order: what was chosen, or the active frame's group, without what left. The active
 * one is always among them. */
export function compared(shoot: Shoot, stage: Leaving, chosen: number[] | null, active = shoot.active) {
  if (active === null) return [];
  const { frames, places } = shoot;
  const among = chosen?.includes(active) ? chosen.filter((id) => places.has(id)) : groupOf(shoot, active);
  return among.filter((id) => id === active || stands(frames.get(id), stage));
}

/** The frames in view of a frame's group. */
function groupOf({ frames, visible, places }: Shoot, id: number): number[] {
  const group = frames.get(id)?.group;
  const at = places.get(id) ?? 0;
  let from = at;
  let to = at;
  while (from > 0 && frames.get(visible[from - 1] ?? -1)?.group === group) from--;
  while (to + 1 < visible.length && frames.get(visible[to + 1] ?? -1)?.group === group) to++;
  return visible.slice(from, to + 1);
}

/** The frame that a step from the active one leads to: over what left the stage and over the one that holds its place,
 * and on into the next group. */
export function stageNeighbour(by: 1 | -1): number | null {
  const { active, places, frames } = useShoot.getState();
  const { ids } = line();
  const stage = useStage.getState();
  const { chosen } = useChosen.getState();
  if (active === null) return ids[0] ?? null;
  const among = chosen?.includes(active) ? chosen.filter((id) => places.has(id)) : ids;
  const over = stage.layout === "two" ? stage.holder : null;
  for (let place = among.indexOf(active) + by; place >= 0 && place < among.length; place += by) {
    const id = among[place];
    if (id !== undefined && id !== over && isAsked(id) && stands(frames.get(id), stage)) return id;
  }
  return null;
}
