import { StillMissing } from "../../panels/filter/StillMissing";
import { Chip } from "../../ui/controls";
import { count } from "../../ui/format";
import type { Scope } from "./scope";

/** Which frames leave. */
export function WhatLeaves({ scope }: { scope: Scope }) {
  const { which, choose, counts, filter } = scope;
  return (
    <section>
      <h2 className="mb-1.5 text-xs font-semibold text-ink2">What leaves</h2>
      <div className="flex flex-wrap gap-1.5">
        <Chip on={which === "keepers"} onClick={() => choose("keepers")}>
          keepers {counts.keepers}
        </Chip>
        <Chip on={which === "filter"} onClick={() => choose("filter")} className="max-w-64">
          <span className="truncate">{filter ? `the filter: ${filter}` : "all frames"}</span> {counts.filter}
        </Chip>
        {counts.selection > 0 && (
          <Chip on={which === "selection"} onClick={() => choose("selection")}>
            {count(counts.selection, "selected frame")}
          </Chip>
        )}
      </div>
      {which === "keepers" && counts.keepers > 0 && <StillMissing />}
    </section>
  );
}
