import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { atOnce, unwrap } from "../../api/client";
import { useShoot } from "../../shoot/store";
import { useRested } from "../../ui/useRested";

/** Who steps through frames does not wait for their words. */
const RESTED_MS = 120;

/** The words of some frames, and where they differ; those of the frames before until they are here. */
export function useCommon(frameIds: number[]) {
  const shootId = useShoot((s) => s.shootId);
  const revision = useShoot((s) => s.revision);
  const last = useShoot((s) => s.undo?.batch ?? 0);
  const key = frameIds.join();
  const rested = useRested(key, RESTED_MS);
  const { data } = useQuery({
    queryKey: ["words", shootId, rested, revision, last],
    enabled: Boolean(rested),
    placeholderData: keepPreviousData,
    queryFn: () =>
      atOnce
        .POST("/api/shoots/{shoot_id}/words/common", {
          params: { path: { shoot_id: shootId } },
          body: { frame_ids: frameIds },
        })
        .then(unwrap)
        .then((words) => ({ words, of: key })),
  });
  return data?.of === key ? data.words : undefined;
}
