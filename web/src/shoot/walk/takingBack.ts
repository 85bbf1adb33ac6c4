/** Taking a whole pass back. */

import { api, newKey, underKey, unwrap } from "../../api/client";
import { count } from "../../ui/format";
import { attempt } from "../errors";
import { catchUp } from "../opening";
import { useShoot } from "../store";
import { useWalk } from "./store";
import { leaveWalk } from "./walking";

/** Takes everything back that was done in a pass; what was marked otherwise since stays, and is told. */
export async function takeBackWalk(walkId: number) {
  const { shootId } = useShoot.getState();
  if (useWalk.getState().walk?.id === walkId) await leaveWalk();
  const answer = await attempt(() =>
    api
      .POST("/api/shoots/{shoot_id}/passes/{walk_id}/take-back", {
        params: { path: { shoot_id: shootId, walk_id: walkId } },
        headers: underKey(newKey()),
      })
      .then(unwrap),
  );
  await catchUp();
  if (!answer) return;
  const later = answer.later
    ? `; ${count(answer.later, "frame")} marked otherwise since stay as they are`
    : "";
  useShoot.setState({ lastAction: `the whole pass undone: ${count(answer.frames, "frame")}${later}` });
}
