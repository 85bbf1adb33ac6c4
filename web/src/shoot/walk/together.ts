/** Frames that are shown together in a pass, to be rejected at once if the person says so. */

import { api, unwrap } from "../../api/client";
import { attempt } from "../errors";
import { mark } from "../marking";
import { useShoot } from "../store";
import { useWalk } from "./store";
import { noteSeen } from "./walking";

const { getState: get, setState: set } = useWalk;

/** Shows the frames of a sentence together that the pass still asks about. */
export async function showTogether(show: string) {
  const { shootId, frames } = useShoot.getState();
  const view = await attempt(() =>
    api
      .GET("/api/shoots/{shoot_id}/view", { params: { path: { shoot_id: shootId }, query: { show } } })
      .then(unwrap),
  );
  if (!view || !get().walk) return;
  const ids = view.ids.filter((id) => get().places.has(id) && frames.get(id)?.decision !== "reject");
  set({ bulk: { show, ids, out: new Set() } });
}

export function takeOut(id: number) {
  const { bulk } = get();
  if (!bulk) return;
  const out = new Set(bulk.out);
  if (!out.delete(id)) out.add(id);
  set({ bulk: { ...bulk, out } });
}

/** Rejects what is shown together, but for what was taken out: one action. */
export function rejectTogether(at: number) {
  const { bulk } = get();
  if (!bulk) return;
  const ids = bulk.ids.filter((id) => !bulk.out.has(id));
  set({ bulk: null });
  if (!ids.length) return;
  mark({ decision: "reject" }, at, ids);
  noteSeen(ids);
}

export function endTogether() {
  set({ bulk: null });
}
