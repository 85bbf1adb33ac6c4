/** The passes there are, and what was gone through in the shoot that is open. */

import { useQuery } from "@tanstack/react-query";
import { api, unwrap } from "../../api/client";
import { useShoot } from "../store";

export function usePasses() {
  return useQuery({
    queryKey: ["passes"],
    staleTime: 0,
    queryFn: () => api.GET("/api/passes").then(unwrap),
  }).data;
}

/** isOpen: asks only then. */
export function usePassesOfShoot(isOpen: boolean) {
  const shootId = useShoot((s) => s.shootId);
  return useQuery({
    queryKey: ["passes", shootId],
    enabled: isOpen && shootId > 0,
    staleTime: 0,
    queryFn: () =>
      api.GET("/api/shoots/{shoot_id}/passes", { params: { path: { shoot_id: shootId } } }).then(unwrap),
  }).data;
}
