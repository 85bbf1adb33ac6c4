import { api, unwrap } from "../api/client";
import { attempt } from "../shoot/errors";
import { useShoot } from "../shoot/store";
import { Hint } from "../ui/controls";

/** How many frames another program marked while the shoot was open: nothing is taken over until it is asked for. */
export function MarkedElsewhere() {
  const shootId = useShoot((s) => s.shootId);
  const counted = useShoot((s) => s.view?.tally.incoming ?? 0);
  if (!counted) return null;
  const read = () =>
    attempt(() =>
      api.POST("/api/shoots/{shoot_id}/refresh", { params: { path: { shoot_id: shootId } } }).then(unwrap),
    );
  return (
    <Hint text="Another program wrote marks into their sidecars. Take over what does not contradict yours">
      <button
        type="button"
        onClick={() => void read()}
        className="min-h-7 rounded-md border border-line bg-raised px-2 text-xs whitespace-nowrap hover:border-ink3"
      >
        {counted} marked elsewhere
      </button>
    </Hint>
  );
}
