import { filterInForce } from "../shoot/filterInForce";
import { PROPOSED, showProposed, takeOver, turnDown } from "../shoot/proposals";
import { useShoot } from "../shoot/store";
import { Button, Hint } from "../ui/controls";

/** On how many frames others propose marks; while they are shown, all of them can be decided over at once. */
export function Proposed() {
  const counted = useShoot((s) => s.view?.tally.proposed ?? 0);
  const shown = useShoot((s) => filterInForce(s).show === PROPOSED);
  const visible = useShoot((s) => s.visible);
  if (!counted) return null;
  if (!shown) {
    return (
      <Hint text="Marks that somebody proposes: they are in no handoff until you take them over. Show them">
        <button
          type="button"
          onClick={showProposed}
          className="min-h-7 rounded-md border border-line bg-raised px-2 text-xs whitespace-nowrap hover:border-ink3"
        >
          {counted} proposed
        </button>
      </Hint>
    );
  }
  return (
    <span className="flex items-center gap-1.5 text-xs whitespace-nowrap">
      <Button onClick={() => void takeOver(visible)}>Take over {visible.length}</Button>
      <Button onClick={() => void turnDown(visible)}>Turn down</Button>
    </span>
  );
}
