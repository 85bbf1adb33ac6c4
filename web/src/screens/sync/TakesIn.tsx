import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { api, unwrap } from "../../api/client";
import { tell } from "../../shoot/errors";

/** Whether what only another program changed is taken over when a shoot is opened, or waits here. */
export function TakesIn() {
  const client = useQueryClient();
  const { data } = useQuery({
    queryKey: ["settings"],
    queryFn: () => api.GET("/api/settings").then(unwrap),
    staleTime: 0,
  });
  const change = useMutation({
    mutationFn: (takes_in: boolean) => api.PUT("/api/settings", { body: { takes_in } }).then(unwrap),
    onSuccess: (now) => client.setQueryData(["settings"], now),
    onError: tell,
  });
  if (!data) return null;
  return (
    <label className="mt-6 flex min-h-6 w-fit items-center gap-2 border-t border-edge pt-3 text-ink2">
      <input
        type="checkbox"
        checked={data.takes_in}
        onChange={(event) => change.mutate(event.target.checked)}
      />
      When a shoot is opened, what only another program changed comes in by itself. While it is open, it waits
      here.
    </label>
  );
}
