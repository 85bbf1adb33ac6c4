/** Marks that others propose: taken over or turned down, as one action that can be undone. */

import { api, unwrap } from "../api/client";
import { loadActions } from "./actions";
import { attempt } from "./errors";
import { EVERYTHING } from "./filter";
import { filterInForce } from "./filterInForce";
import { learnMarks, refresh } from "./frames";
import { useShoot } from "./store";
import { setFilter } from "./view";

/** The sentence of the filter that shows them. */
export const PROPOSED = "proposed marks";

export function showProposed() {
  setFilter({ show: PROPOSED, parts: [] });
}

export const takeOver = (ids: number[]) => settle("/api/shoots/{shoot_id}/proposals/take", ids);
export const turnDown = (ids: number[]) => settle("/api/shoots/{shoot_id}/proposals/turn-down", ids);

type Way = "/api/shoots/{shoot_id}/proposals/take" | "/api/shoots/{shoot_id}/proposals/turn-down";

/** Acts on those of some frames that hold a proposal. */
async function settle(way: Way, ids: number[]) {
  const { shootId, frames } = useShoot.getState();
  const meant = ids.filter((id) => frames.get(id)?.proposed);
  if (!meant.length) return useShoot.setState({ lastAction: "nothing is proposed here" });
  const done = await attempt(() =>
    api
      .POST(way, { params: { path: { shoot_id: shootId } }, body: { frame_ids: meant, by: null } })
      .then(unwrap),
  );
  if (!done || useShoot.getState().shootId !== shootId) return;
  useShoot.setState({ lastAction: done.title });
  learnMarks(done.frames);
  // A filter that shows nothing any more has served.
  const isLeft = [...useShoot.getState().frames.values()].some((frame) => frame.proposed);
  if (!isLeft && filterInForce(useShoot.getState()).show === PROPOSED) setFilter(EVERYTHING);
  await refresh();
  await loadActions();
}
