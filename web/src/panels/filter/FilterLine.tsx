import { memo, useDeferredValue } from "react";
import { keyOf } from "../../keys/inForce";
import { showsAll } from "../../shoot/filter";
import { type ShootState, useShoot } from "../../shoot/store";
import { tryAgain } from "../../shoot/tryAgain";
import { setFilter, toggleDecision, toggleFilter } from "../../shoot/view";
import { Chip, Hint, Kbd } from "../../ui/controls";
import { Grain } from "../../ui/marks";
import { EvidenceFilter } from "./EvidenceFilter";
import { RatingFilter } from "./RatingFilter";

/** What part of the shoot is in view, with counts, and what is hidden. */
export function FilterLine() {
  const view = useDeferredValue(useShoot((s) => s.view));
  const shown = useDeferredValue(useShoot((s) => s.visible.length));
  return <Line view={view} shown={shown} />;
}

interface Counted {
  view: ShootState["view"];
  shown: number;
}

/** Counts come right after the pictures that a mark changes. */
const Line = memo(function Line({ view, shown }: Counted) {
  const filter = useShoot((s) => s.filter);
  const on = useShoot((s) => s.filterOn);
  const tally = view?.tally;
  const hidden = view ? view.total - shown : 0;
  const everything = showsAll(filter);
  const dim = !on && !everything ? "opacity-50" : "";
  return (
    <fieldset
      aria-label="Filter"
      className="flex h-8 min-w-0 flex-1 items-center gap-1.5 rounded-md border border-edge bg-surround px-2 max-[1100px]:order-last max-[1100px]:mb-1.5 max-[1100px]:basis-full"
    >
      <span className={`flex min-w-0 items-center gap-1.5 ${dim}`}>
        <Hint text="Only keepers" command="filter-keepers">
          <Chip on={filter.decisions.includes("keep")} onClick={() => toggleDecision("keep")}>
            <Grain size={10} /> <span className="max-[1180px]:sr-only">keepers</span>{" "}
            {tally?.decisions.keep ?? ""}
          </Chip>
        </Hint>
        <Hint text="Only undecided frames" command="filter-undecided">
          <Chip on={filter.decisions.includes("undecided")} onClick={() => toggleDecision("undecided")}>
            undecided {tally?.decisions.undecided ?? ""}
          </Chip>
        </Hint>
        <Hint text="Only rejects" command="filter-rejects">
          <Chip on={filter.decisions.includes("reject")} onClick={() => toggleDecision("reject")}>
            <span className="line-through">rejects</span> {tally?.decisions.reject ?? ""}
          </Chip>
        </Hint>
        <RatingFilter />
        <EvidenceFilter />
        {(tally?.warned ?? 0) > 0 && (
          <Hint text="Files that cannot be read, are damaged, or have other marks on disk">
            <Chip on={filter.warned} onClick={() => setFilter({ warned: !filter.warned })}>
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
      <output className="truncate text-ink2" data-testid="shown">
        {view && `${shown.toLocaleString("en")} of ${view.total.toLocaleString("en")}`}
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
              {on ? `${hidden.toLocaleString("en")} hidden` : "filter off"}
            </span>
            <Kbd>{keyOf("filter")}</Kbd>
          </button>
        </Hint>
      )}
    </fieldset>
  );
});
