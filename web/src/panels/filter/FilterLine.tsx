import { memo, useDeferredValue } from "react";
import { keyOf } from "../../keys/inForce";
import { asksFor, type Filter, showsAll } from "../../shoot/filter";
import { type ShootState, useShoot } from "../../shoot/store";
import { tryAgain } from "../../shoot/tryAgain";
import { toggleFilter, toggleFilterPart } from "../../shoot/view";
import { Chip, Hint, Kbd } from "../../ui/controls";
import { figure } from "../../ui/format";
import { Grain } from "../../ui/marks";
import { AskMore } from "./AskMore";
import { useFilterName } from "./NamedFilters";
import { PartChip } from "./PartChip";

/** What part of the shoot is in view, as a sentence of parts, with counts, and what is hidden. */
export function FilterLine() {
  const view = useDeferredValue(useShoot((s) => s.view));
  const shown = useDeferredValue(useShoot((s) => s.visible.length));
  return <Line view={view} shown={shown} />;
}

interface Counted {
  view: ShootState["view"];
  shown: number;
}

/** So many parts beside the decisions find room in the header; more take a line of their own. */
const IN_HEADER = 1;

function others({ parts }: Filter) {
  const placed = parts.map((part, at) => ({ part, at }));
  return placed.filter(({ part }) => part.facet !== "decision" || part.negated);
}

export function hasOwnLine(filter: Filter): boolean {
  return others(filter).length > IN_HEADER;
}

/** Counts come right after the pictures that a mark changes. */
const Line = memo(function Line({ view, shown }: Counted) {
  const filter = useShoot((s) => s.filter);
  const on = useShoot((s) => s.filterOn);
  const tally = view?.tally;
  const hidden = view ? view.total - shown : 0;
  const everything = showsAll(filter);
  const dim = !on && !everything ? "opacity-50" : "";
  const name = useFilterName();
  const cameBack = useShoot((s) => s.filterCameBack && !showsAll(s.filter));
  const more = others(filter);
  const decide = (word: string) => toggleFilterPart("decision", "Decision", word);
  const own = hasOwnLine(filter) ? "order-last mb-1.5 basis-full" : "flex-1 basis-0";
  return (
    <fieldset
      aria-label="Filter"
      className={`flex min-h-8 min-w-0 flex-wrap items-center gap-x-1.5 gap-y-1 rounded-md border border-edge bg-surround px-2 py-0.5 max-[1100px]:order-last max-[1100px]:mb-1.5 max-[1100px]:basis-full ${own}`}
    >
      <span className={`flex min-w-0 flex-wrap items-center gap-1.5 ${dim}`}>
        <Hint text="Keepers" command="filter-keepers">
          <Chip on={asksFor(filter, "decision", "keepers")} onClick={() => decide("keepers")}>
            <Grain size={10} /> <span className="max-[1180px]:sr-only">keepers</span>{" "}
            {tally?.decisions.keep ?? ""}
          </Chip>
        </Hint>
        <Hint text="Undecided frames" command="filter-undecided">
          <Chip on={asksFor(filter, "decision", "undecided")} onClick={() => decide("undecided")}>
            undecided {tally?.decisions.undecided ?? ""}
          </Chip>
        </Hint>
        <Hint text="Rejects" command="filter-rejects">
          <Chip on={asksFor(filter, "decision", "rejects")} onClick={() => decide("rejects")}>
            <span className="line-through">rejects</span> {tally?.decisions.reject ?? ""}
          </Chip>
        </Hint>
        {more.map(({ part, at }) => (
          <PartChip key={`${part.facet} ${at}`} part={part} at={at} />
        ))}
        <AskMore />
        {(tally?.warned ?? 0) > 0 && !more.length && (
          <Hint text="Files that cannot be read, are damaged, or have other marks on disk">
            <Chip on={false} onClick={() => toggleFilterPart("notes", "File notes", "file notes")}>
              file notes {tally?.warned}
            </Chip>
          </Hint>
        )}
        {(tally?.again ?? 0) > 0 && (
          <Hint text="Files that could not be read for a reason that may have passed" command="try-again">
            <Chip on={false} onClick={() => void tryAgain(useShoot.getState().shootId)}>
              try {tally?.again} again
            </Chip>
          </Hint>
        )}
      </span>
      <span className="flex-1" />
      {cameBack && <span className="truncate text-ink2">filter as you left it</span>}
      {name && <span className="truncate text-ink2">“{name}”</span>}
      <output className="truncate text-ink2" data-testid="shown">
        {view && `${figure(shown)} of ${figure(view.total)}`}
        {view && hidden === 0 && <span className="max-[1180px]:sr-only"> · none hidden</span>}
      </output>
      {view && (hidden > 0 || (!on && !everything)) && (
        <Hint text={on ? "Show all; the filter is kept" : "Back to the filter"} command="filter">
          <button
            type="button"
            onClick={toggleFilter}
            className="flex min-h-6 items-center gap-1.5 whitespace-nowrap"
          >
            <span className="underline underline-offset-2">
              {on ? `${figure(hidden)} hidden` : "filter off"}
            </span>
            <Kbd>{keyOf("filter")}</Kbd>
          </button>
        </Hint>
      )}
    </fieldset>
  );
});
