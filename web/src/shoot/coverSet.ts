/** The cover set of a group, labelled. */

import { api, unwrap } from "../api/client";
import { label } from "./deciding";
import { attempt, tell } from "./errors";
import { labelOf } from "./labels";

const COMBINE = "Combine";

/** Labels the fewest frames of a frame's group in which everybody is well shown. */
export async function labelCoverSet(frameId: number | null, at: number) {
  if (frameId === null) return;
  const params = { path: { frame_id: frameId } };
  const found = await attempt(() => api.GET("/api/frames/{frame_id}/cover-set", { params }).then(unwrap));
  if (!found) return;
  const combine = labelOf(COMBINE);
  if (!combine) return tell(new Error("There is no label Combine to set: define one under Labels."));
  if (found.frames.length < 2)
    return tell(new Error("No frames are to be combined here: one shows everybody well, or none does."));
  label(
    combine.id,
    at,
    found.frames.map(({ id }) => id),
    true,
  );
}
