import type { ReactNode } from "react";
import type { Warned } from "../../api/client";
import { looksFor } from "../../shoot/filter";
import { useShoot } from "../../shoot/store";
import { setFilter } from "../../shoot/view";
import { Chip } from "../../ui/controls";
import { WARNING_ORDER, WARNING_WORDS } from "../../ui/warnings";
import { FilterPopover } from "./FilterPopover";

/** Filters by what was measured: warnings, faces, similar frames. */
export function EvidenceFilter() {
  const { warnings, faces, similar, copies } = useShoot((s) => s.filter);
  const on = useShoot((s) => looksFor(s.filter));
  const tally = useShoot((s) => s.view?.tally);
  const chosen = [
    ...warnings.map((w) => WARNING_WORDS[w]),
    faces === null ? "" : faces ? "with faces" : "no faces",
    similar === null ? "" : similar ? "has similar" : "single",
    copies ? "copies" : "",
  ].filter(Boolean);
  const title =
    chosen.length === 0 ? "evidence" : chosen.length === 1 ? chosen[0] : `${chosen.length} of the evidence`;
  const toggle = (warning: Warned) =>
    setFilter({
      warnings: warnings.includes(warning) ? warnings.filter((w) => w !== warning) : [...warnings, warning],
    });
  return (
    <FilterPopover
      by="evidence"
      chosen={chosen.join(", ") || "all"}
      title={title}
      on={on}
      className="w-80 space-y-3"
    >
      <Part title="Look at">
        {WARNING_ORDER.map((warning) => (
          <Chip key={warning} on={warnings.includes(warning)} onClick={() => toggle(warning)}>
            {WARNING_WORDS[warning]} {tally?.warnings[warning] ?? ""}
          </Chip>
        ))}
      </Part>
      <Part title="Faces">
        <Chip on={faces === true} onClick={() => setFilter({ faces: faces === true ? null : true })}>
          with faces {tally?.faces ?? ""}
        </Chip>
        <Chip on={faces === false} onClick={() => setFilter({ faces: faces === false ? null : false })}>
          without {tally?.faceless ?? ""}
        </Chip>
      </Part>
      <Part title="Similar frames">
        <Chip on={similar === true} onClick={() => setFilter({ similar: similar === true ? null : true })}>
          has similar {tally?.similar ?? ""}
        </Chip>
        <Chip on={similar === false} onClick={() => setFilter({ similar: similar === false ? null : false })}>
          single {tally?.single ?? ""}
        </Chip>
        <Chip
          on={copies}
          title="Frames whose content lies in the shoot more than once"
          onClick={() => setFilter({ copies: !copies })}
        >
          copies {tally?.copies ?? ""}
        </Chip>
      </Part>
    </FilterPopover>
  );
}

function Part({ title, children }: { title: string; children: ReactNode }) {
  return (
    <section>
      <h3 className="pb-1 text-xs text-ink2">{title}</h3>
      <div className="flex flex-wrap gap-1.5">{children}</div>
    </section>
  );
}
