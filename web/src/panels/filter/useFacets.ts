import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { api, unwrap } from "../../api/client";
import type { components } from "../../api/schema";
import { type Filter, queryOf } from "../../shoot/filter";
import { useShoot } from "../../shoot/store";

export type Facet = components["schemas"]["FacetView"];
export type FacetValue = components["schemas"]["FacetValue"];

/** Everything that can be asked for, with how many frames each answer would show beside the rest of the filter. */
export function useFacets(filter: Filter): Map<string, Facet> | undefined {
  const shootId = useShoot((s) => s.shootId);
  const revision = useShoot((s) => s.revision);
  const { data } = useQuery({
    queryKey: ["facets", shootId, revision, filter.show],
    placeholderData: keepPreviousData,
    queryFn: () =>
      api
        .GET("/api/shoots/{shoot_id}/facets", {
          params: { path: { shoot_id: shootId }, query: queryOf(filter) },
        })
        .then(unwrap)
        .then((facets) => new Map(facets.map((facet) => [facet.facet, facet]))),
  });
  return data;
}
