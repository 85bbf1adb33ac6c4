import { PlanCard } from "../../panels/plans/PlanCard";
import { Proposed } from "../../panels/plans/Proposed";
import { usePlans } from "../../panels/plans/usePlans";
import { useShoot } from "../../shoot/store";
import { Choices } from "./Choices";

/** Everything that leaves: keepers out, rejects held back, marks into sidecars. */
export function Handoff() {
  const shootId = useShoot((s) => s.shootId);
  const { proposed, past, running, error, make, act, drop } = usePlans(shootId);
  return (
    <main className="flex min-w-0 flex-1">
      <Choices onMake={make} onChange={drop} />
      <div className="min-w-0 flex-1 space-y-4 overflow-y-auto p-5">
        {error && (
          <p role="alert" className="border-l-2 border-straw pl-3">
            {error}
          </p>
        )}
        {proposed && (
          <Proposed
            plan={proposed}
            onApply={() => act(proposed.id, "apply")}
            onDrop={drop}
            onMakeAnew={make}
          />
        )}
        <h2 className="font-semibold text-ink2">Done with this shoot's files</h2>
        {past?.length === 0 && !proposed && (
          <p className="text-ink2">
            Nothing yet. Choose on the left: a plan is shown here first, with counts and conflicts, and every
            plan can be taken back.
          </p>
        )}
        <ul className="space-y-3">
          {past?.map((plan) => (
            <li key={plan.id}>
              <PlanCard
                plan={plan}
                running={running[plan.id]}
                onAct={(what) => act(plan.id, what)}
                onMakeAnew={make}
              />
            </li>
          ))}
        </ul>
      </div>
    </main>
  );
}
