import { useQuery } from "@tanstack/react-query";
import { api, type ShootCard, unwrap } from "../api/client";

/** The card of one shoot. */
export function useCard(shootId: number): ShootCard | undefined {
  return useQuery({
    queryKey: ["card", shootId],
    enabled: shootId > 0,
    queryFn: () =>
      api.GET("/api/shoots/{shoot_id}", { params: { path: { shoot_id: shootId } } }).then(unwrap),
  }).data;
}
