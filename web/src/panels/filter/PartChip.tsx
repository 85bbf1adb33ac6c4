import { Popover } from "radix-ui";
import { type FilterPart, opposite, replaced } from "../../shoot/filter";
import { useShoot } from "../../shoot/store";
import { setFilter } from "../../shoot/view";
import { Button, chipLook } from "../../ui/controls";
import { FacetEditor } from "./FacetEditor";
import { useFacets } from "./useFacets";

/** A part of the filter: pressed, it can be changed, turned into its opposite, or dropped. */
export function PartChip({ part, at }: { part: FilterPart; at: number }) {
  const change = (to: FilterPart | null) => setFilter(replaced(useShoot.getState().filter, at, to));
  return (
    <Popover.Root>
      <Popover.Trigger asChild>
        <button
          type="button"
          aria-label={`${part.text}: change, turn round or drop`}
          className={`${chipLook(true)} max-w-56 ${part.negated ? "border-dashed" : ""}`}
        >
          <span className="truncate">{part.text}</span>
        </button>
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          sideOffset={6}
          aria-label={part.title}
          className="z-40 w-80 rounded-md border border-edge bg-wall p-3 shadow-xl"
        >
          <h3 className="pb-2 text-xs font-semibold text-ink2">{part.title}</h3>
          <Editor facet={part.facet} />
          <div className="flex gap-2 pt-3">
            <Button onClick={() => change(opposite(part))}>the opposite</Button>
            <Button onClick={() => change(null)}>drop it</Button>
          </div>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

/** In a component of its own: counts are asked for when it is open. */
function Editor({ facet }: { facet: string }) {
  const filter = useShoot((s) => s.filter);
  const found = useFacets(filter)?.get(facet);
  return found ? <FacetEditor facet={found} /> : null;
}
