import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import type { ReactNode } from "react";
import { api, unwrap } from "../api/client";

interface Props {
  /** Which of the settings that the server keeps. */
  of: "takes_in" | "full_sidecar_names";
  children: ReactNode;
}

/** A setting of this Winnow, on or off. */
export function ServerSwitch({ of, children }: Props) {
  const client = useQueryClient();
  const { data } = useQuery({
    queryKey: ["settings"],
    queryFn: () => api.GET("/api/settings").then(unwrap),
    staleTime: 0,
  });
  const change = useMutation({
    mutationFn: (on: boolean) => api.PUT("/api/settings", { body: { [of]: on } }).then(unwrap),
    onSuccess: (now) => client.setQueryData(["settings"], now),
  });
  if (!data) return null;
  return (
    <label className="flex min-h-6 w-fit items-center gap-2 text-ink2">
      <input type="checkbox" checked={data[of]} onChange={(event) => change.mutate(event.target.checked)} />
      <span>{children}</span>
      {change.error && <span role="alert">{change.error.message}</span>}
    </label>
  );
}
