/** What the person does to groups: journalled and undone like marks. */

import { api, type Regrouping, unwrap } from "../api/client";
import { send } from "./marking";
import { useShoot } from "./store";

/** Splits, joins or moves at a frame. */
export function regroup(action: Regrouping, frame: number | null) {
  if (frame === null) return;
  const { shootId } = useShoot.getState();
  void send(shootId, () =>
    api
      .POST("/api/shoots/{shoot_id}/groups", {
        params: { path: { shoot_id: shootId } },
        body: { frame_id: frame, action },
      })
      .then(unwrap),
  );
}
