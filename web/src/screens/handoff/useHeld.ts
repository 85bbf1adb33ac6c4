import { useQuery } from "@tanstack/react-query";
import { api, unwrap } from "../../api/client";
import { useShoot } from "../../shoot/store";

/** What waits in the holding folders of this shoot. */
export function useHeld() {
  const shootId = useShoot((s) => s.shootId);
  const revision = useShoot((s) => s.revision);
  const held = useShoot((s) => s.view?.held ?? 0);
  const { data } = useQuery({
    queryKey: ["held", shootId, revision, held],
    staleTime: 0,
    // Every change of the shoot asks again: what is shown stays until then, and what was chosen of it.
    placeholderData: (before, query) => (query?.queryKey[1] === shootId ? before : undefined),
    queryFn: () =>
      api.GET("/api/shoots/{shoot_id}/held", { params: { path: { shoot_id: shootId } } }).then(unwrap),
  });
  return data;
}
