import { useQuery } from "@tanstack/react-query";
import { api, unwrap } from "../../api/client";

/** Words that are said again and again, by name. */
export function useTemplates() {
  return useQuery({ queryKey: ["templates"], queryFn: () => api.GET("/api/templates").then(unwrap) }).data;
}
