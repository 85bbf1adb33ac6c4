/** What the person does to groups: journalled and undone like marks. */

import { api, type Regrouping, unwrap } from "../api/client";
import { send } from "./marking";
import { attempt, useShoot } from "./store";

/** Sets the clock of the second frame's camera: both show the same moment. */
export async function sameMoment(frame: number, other: number) {
  const { shootId } = useShoot.getState();
  await attempt(async () => {
    const answer = await api.POST("/api/shoots/{shoot_id}/same-moment", {
      params: { path: { shoot_id: shootId } },
      body: { frame_id: frame, other_id: other },
    });
    unwrap(answer);
  });
}

/** All cameras by their own clocks again. */
export async function forgetClocks() {
  const { shootId } = useShoot.getState();
  await attempt(async () => {
    unwrap(await api.DELETE("/api/shoots/{shoot_id}/clocks", { params: { path: { shoot_id: shootId } } }));
  });
}

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
