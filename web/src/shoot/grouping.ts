/** What the person does to groups: journalled and undone like marks. */

import { api, newKey, type Regrouping, unwrap } from "../api/client";
import { attempt } from "./errors";
import { rests } from "./marking";
import { putIn } from "./outbox/outbox";
import { useShoot } from "./store";
import { noteStep } from "./trail";

/** Splits, joins or moves at a frame. */
export function regroup(action: Regrouping, frame: number | null) {
  if (frame === null || rests("group")) return;
  const key = newKey();
  noteStep(key, [], []);
  void putIn(useShoot.getState().shootId, key, { kind: "regroup", frameId: frame, action });
}

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
