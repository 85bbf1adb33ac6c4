import { Link, useLocation } from "wouter";
import { PlanCard } from "../../panels/plans/PlanCard";
import { usePlans } from "../../panels/plans/usePlans";
import { addressOf } from "../../shoot/address";
import { Button } from "../../ui/controls";

/** A copy that is under way, or has ended: one can begin with what is there. */
export function Arriving({ shootId, planId }: { shootId: number; planId: number }) {
  const { past, running, error, act, make } = usePlans(shootId);
  const [, navigate] = useLocation();
  const plan = past?.find((one) => one.id === planId);
  if (!plan) return null;
  return (
    <div className="max-w-3xl space-y-4">
      {error && (
        <p role="alert" className="border-l-2 border-straw pl-3">
          {error}
        </p>
      )}
      <PlanCard
        plan={plan}
        running={running[plan.id]}
        onAct={(what) => act(plan.id, what)}
        onMakeAnew={make}
      />
      <div className="flex items-center gap-3">
        <Button look="main" onClick={() => navigate(addressOf(shootId, "wall"))}>
          {plan.state === "applied" ? "Start" : "Start with what is there"}
        </Button>
        <span className="text-ink2">
          {plan.state === "applied"
            ? "All of it is there."
            : "The rest comes while you work; frames near you are prepared first."}
        </span>
      </div>
      <p className="text-ink2">
        This stays under <Link href={addressOf(shootId, "handoff")}>Handoff</Link> of the shoot: how far it
        is, the report, and the way back.
      </p>
    </div>
  );
}
