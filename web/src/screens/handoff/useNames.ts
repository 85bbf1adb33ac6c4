import { api, unwrap } from "../../api/client";
import type { components } from "../../api/schema";
import type { NamingWish } from "../../panels/plans/Naming";
import { useShoot } from "../../shoot/store";
import type { Scope } from "./scope";

/** How to ask what frames of this shoot would be called. */
export function useNames({ wish }: Scope, into: components["schemas"]["Into"]) {
  const shootId = useShoot((s) => s.shootId);
  const revision = useShoot((s) => s.revision);
  return {
    of: [shootId, revision, wish, into],
    ask: (naming: NamingWish) =>
      api
        .POST("/api/shoots/{shoot_id}/names", {
          params: { path: { shoot_id: shootId } },
          body: { ...wish, into, naming },
        })
        .then(unwrap),
  };
}
