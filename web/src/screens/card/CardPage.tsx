import { useMutation, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useLocation, useSearchParams } from "wouter";
import { api, type PlanView, unwrap } from "../../api/client";
import { inWords } from "../../api/words";
import { Proposed } from "../../panels/plans/Proposed";
import { whole } from "../../panels/plans/usePlans";
import { addressOf } from "../../shoot/address";
import { Home } from "../../ui/Home";
import { useTitle } from "../../ui/useTitle";
import { Arriving } from "./Arriving";
import { type ImportWish, WhereTo } from "./WhereTo";

/** From a card, or any folder, to one disk or two: what is on it, where it goes, how far the copy is. */
export function CardPage() {
  const [search] = useSearchParams();
  const from = search.get("from") ?? "";
  const [, navigate] = useLocation();
  const [plan, setPlan] = useState<PlanView | null>(null);
  const [begun, setBegun] = useState(false);
  useTitle("From a card");
  const { data: card, error } = useQuery({
    queryKey: ["card", from],
    staleTime: 0,
    retry: false,
    queryFn: () => api.POST("/api/cards/look", { body: { path: from } }).then(unwrap),
  });
  const make = useMutation({
    mutationFn: (wish: ImportWish) =>
      api.POST("/api/imports", { body: whole({ ...wish, kind: "import", source: from }) }).then(unwrap),
    onSuccess: setPlan,
  });
  const apply = useMutation({
    mutationFn: (planId: number) =>
      api.POST("/api/plans/{plan_id}/apply", { params: { path: { plan_id: planId } } }).then(unwrap),
    onSuccess: () => setBegun(true),
  });
  const look = useMutation({
    mutationFn: () => api.POST("/api/shoots", { body: { path: from, as_new: true } }).then(unwrap),
    onSuccess: (shoot) => navigate(addressOf(shoot.id, "wall")),
  });
  const problem = error ?? make.error ?? apply.error ?? look.error;
  return (
    <div className="flex h-full flex-col">
      <header className="flex h-11 shrink-0 items-center gap-3 border-b border-edge bg-wall px-3.5">
        <Home />
        <h1 className="truncate text-ink2">{card ? `From ${card.name}` : "From a card"}</h1>
      </header>
      <main className="flex min-h-0 min-w-0 flex-1 max-[900px]:flex-col max-[900px]:overflow-y-auto">
        {card && !begun && (
          <WhereTo
            card={card}
            busy={make.isPending}
            onPlan={(wish) => make.mutate(wish)}
            onChange={() => setPlan(null)}
            onLook={() => look.mutate()}
          />
        )}
        <div className="min-w-0 flex-1 space-y-4 overflow-y-auto p-5">
          {problem && (
            <p role="alert" className="border-l-2 border-straw pl-3">
              {inWords(problem)}
            </p>
          )}
          {plan && !begun && (
            <Proposed
              plan={plan}
              onApply={() => apply.mutate(plan.id)}
              onDrop={() => setPlan(null)}
              onMakeAnew={() => undefined}
            />
          )}
          {plan && begun && <Arriving shootId={plan.shoot_id} planId={plan.id} />}
          {!plan && card && (
            <p className="max-w-prose text-ink2">
              A plan is shown here before anything is copied. Every file is read from the card twice and read
              back from each disk; what is here already is not copied again. Nothing is ever written to a
              card, or deleted from it.
            </p>
          )}
        </div>
      </main>
    </div>
  );
}
