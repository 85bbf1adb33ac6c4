import { goToScreen } from "../shoot/address";
import { useShoot } from "../shoot/store";
import { Hint } from "../ui/controls";

/** How many frames another program marked while the shoot was open: nothing is taken over until it is asked for. */
export function MarkedElsewhere() {
  const counted = useShoot((s) => s.view?.tally.incoming ?? 0);
  if (!counted) return null;
  return (
    <Hint text="Another program marked them while the shoot was open: see what it says, and which side counts">
      <button
        type="button"
        onClick={() => goToScreen("sync")}
        className="min-h-7 rounded-md border border-line bg-raised px-2 text-xs whitespace-nowrap hover:border-ink3"
      >
        {counted} marked elsewhere
      </button>
    </Hint>
  );
}
