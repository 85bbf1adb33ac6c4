import { api, unwrap } from "../../api/client";
import type { components } from "../../api/schema";
import type { NamingWish } from "../../panels/plans/Naming";
import { useShoot } from "../../shoot/store";
import type { Scope } from "./scope";

/** How to ask what frames of this shoot would be called; into: in the folders for each of what, or where they are. */
export function useNames({ wish }: Scope, into: components["schemas"]["Into"] | "in place") {
  const shootId = useShoot((s) => s.shootId);
  const revision = useShoot((s) => s.revision);
  return {
    of: [shootId, revision, wish, into],
    ask: (naming: NamingWish) =>
      api
        .POST("/api/shoots/{shoot_id}/names", {
          params: { path: { shoot_id: shootId } },
          body: {
            ...wish,
            into: into === "in place" ? "nothing" : into,
            in_place: into === "in place",
            naming,
          },
        })
        .then(unwrap),
  };
}
