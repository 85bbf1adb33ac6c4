import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { api, unwrap } from "../../api/client";
import type { components } from "../../api/schema";
import { tell } from "../../shoot/errors";

export type Editor = components["schemas"]["Editor"];
type Editors = components["schemas"]["Editors"];

/** The programs that frames can be opened in, and how they are kept and forgotten. */
export function useEditors() {
  const client = useQueryClient();
  const { data } = useQuery({
    queryKey: ["editors"],
    queryFn: () => api.GET("/api/editors").then(unwrap),
    staleTime: 0,
  });
  const keep = useMutation({
    mutationFn: (body: Pick<Editor, "name" | "command">) => api.PUT("/api/editors", { body }).then(unwrap),
    onSuccess: (found: Editors) => client.setQueryData(["editors"], found),
  });
  const forget = useMutation({
    mutationFn: (name: string) => api.DELETE("/api/editors", { params: { query: { name } } }).then(unwrap),
    onError: tell,
    onSettled: () => client.invalidateQueries({ queryKey: ["editors"] }),
  });
  return { data, keep, forget };
}
