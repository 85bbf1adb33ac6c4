import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, unwrap } from "../../api/client";
import { tell } from "../../shoot/errors";
import { useShoot } from "../../shoot/store";
import { setFilter } from "../../shoot/view";
import { Button } from "../../ui/controls";
import { KeptChip } from "../../ui/KeptChip";

function useNamedFilters(shootId: number) {
  return useQuery({
    queryKey: ["filters", shootId],
    enabled: shootId > 0,
    queryFn: () =>
      api.GET("/api/shoots/{shoot_id}/filters", { params: { path: { shoot_id: shootId } } }).then(unwrap),
  }).data;
}

/** The name of the filter in force, if it has one. */
export function useFilterName(): string | undefined {
  const shootId = useShoot((s) => s.shootId);
  const show = useShoot((s) => s.filter.show);
  return useNamedFilters(shootId)?.find((one) => one.show === show)?.name;
}

/** Filters with a name, of this shoot and of all; the one in force can be given one. */
export function NamedFilters() {
  const client = useQueryClient();
  const shootId = useShoot((s) => s.shootId);
  const show = useShoot((s) => s.filter.show);
  const named = useNamedFilters(shootId);
  const [name, setName] = useState("");
  const [everywhere, setEverywhere] = useState(false);
  const path = { shoot_id: shootId };
  const onSettled = () => client.invalidateQueries({ queryKey: ["filters"] });
  const keep = useMutation({
    mutationFn: () =>
      api
        .POST("/api/shoots/{shoot_id}/filters", { params: { path }, body: { name, show, everywhere } })
        .then(unwrap),
    onSuccess: () => setName(""),
    onError: tell,
    onSettled,
  });
  const forget = useMutation({
    mutationFn: (id: number) =>
      api
        .DELETE("/api/shoots/{shoot_id}/filters/{filter_id}", {
          params: { path: { ...path, filter_id: id } },
        })
        .then(unwrap),
    onError: tell,
    onSettled,
  });
  return (
    <section aria-label="Filters with a name">
      <h3 className="pb-1 text-xs text-ink2">Filters with a name</h3>
      <ul className="flex flex-wrap gap-1.5">
        {named?.map((one) => (
          <li key={one.id}>
            <KeptChip
              what={`the filter ${one.name}`}
              title={one.show}
              on={one.show === show}
              onUse={() => setFilter({ show: one.show, parts: [] })}
              onForget={() => forget.mutate(one.id)}
            >
              {one.name}
              {one.everywhere && <span className="text-ink2">all shoots</span>}
            </KeptChip>
          </li>
        ))}
        {named?.length === 0 && (
          <li className="text-xs text-ink2">None yet: ask for something and name it.</li>
        )}
      </ul>
      {show && (
        <form
          className="flex flex-wrap items-center gap-2 pt-2"
          onSubmit={(event) => {
            event.preventDefault();
            if (name.trim()) keep.mutate();
          }}
        >
          <input
            aria-label="Name for this filter"
            placeholder="name for this filter"
            value={name}
            maxLength={80}
            onChange={(event) => setName(event.target.value)}
            className="h-7 w-36 rounded border border-line bg-pit px-2 placeholder:text-ink3"
          />
          <label className="flex min-h-6 items-center gap-1 text-xs text-ink2">
            <input
              type="checkbox"
              checked={everywhere}
              onChange={(event) => setEverywhere(event.target.checked)}
            />
            for all shoots
          </label>
          <Button type="submit" disabled={!name.trim()}>
            Keep
          </Button>
        </form>
      )}
    </section>
  );
}
