import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, unwrap } from "../../api/client";
import { Button } from "../../ui/controls";
import { bytes } from "../../ui/format";

const COUNTING_MS = 1000;

/** How much space the previews take, and how much they may. */
export function PreviewSpace() {
  const client = useQueryClient();
  const { data } = useQuery({
    queryKey: ["settings"],
    queryFn: () => api.GET("/api/settings").then(unwrap),
    refetchInterval: ({ state }) => (state.data && state.data.cache_bytes === null ? COUNTING_MS : false),
  });
  const [wish, setWish] = useState<string | null>(null);
  const [error, setError] = useState<string | null>(null);
  if (!data) return null;
  const save = async () => {
    try {
      const changed = await api
        .PUT("/api/settings", { body: { cache_gb: Math.round(Number(wish)) } })
        .then(unwrap);
      client.setQueryData(["settings"], changed);
      setWish(null);
      setError(null);
    } catch {
      setError("A whole number of GB, 1 or more.");
    }
  };
  return (
    <form
      className="flex shrink-0 items-center gap-2 border-t border-edge px-4 py-1.5 text-xs text-ink2"
      onSubmit={(event) => {
        event.preventDefault();
        void save();
      }}
    >
      <span>
        Previews take {data.cache_bytes === null ? "… (being counted)" : bytes(data.cache_bytes)} of at most
      </span>
      <input
        aria-label="Room for previews, GB"
        type="number"
        min={1}
        max={100000}
        value={wish ?? data.cache_gb}
        onChange={(event) => setWish(event.target.value)}
        className="w-20 rounded border border-edge bg-pit px-1.5 py-0.5 text-ink"
      />
      <span>GB. Those looked at longest ago are forgotten first, and made again when they are wanted.</span>
      {wish !== null && Number(wish) !== data.cache_gb && <Button type="submit">Set</Button>}
      {error && <span role="alert">{error}</span>}
    </form>
  );
}
