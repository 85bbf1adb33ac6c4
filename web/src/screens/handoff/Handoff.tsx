import { useState } from "react";
import { PlanCard } from "../../panels/plans/PlanCard";
import { Proposed } from "../../panels/plans/Proposed";
import { usePlans } from "../../panels/plans/usePlans";
import { useOutbox, waits } from "../../shoot/outbox/outbox";
import { useShoot } from "../../shoot/store";
import { count } from "../../ui/format";
import { ClientAnswer } from "./ClientAnswer";
import { HoldingFolder } from "./HoldingFolder";
import { OtherNames } from "./OtherNames";
import { Rejects } from "./Rejects";
import { Sidecars } from "./Sidecars";
import { useScope } from "./scope";
import { ToEditor } from "./ToEditor";
import { ToFolder } from "./ToFolder";
import { ToList } from "./ToList";
import { ToProof } from "./ToProof";
import { type Way, Ways } from "./Ways";
import { WholeShoot } from "./WholeShoot";

/** Everything that leaves: what, where to, and what was done. */
export function Handoff() {
  const shootId = useShoot((s) => s.shootId);
  const waiting = useOutbox((s) => s.entries.filter(waits).length);
  const { proposed, past, running, error, make, propose, act, drop } = usePlans(shootId);
  const scope = useScope();
  const [way, setWay] = useState<Way>("folder");
  const choose = (next: Way) => {
    setWay(next);
    drop();
  };
  const choosing = {
    ...scope,
    choose: (which: typeof scope.which) => {
      scope.choose(which);
      drop();
    },
  };
  return (
    <main className="flex min-w-0 flex-1 max-[900px]:flex-col max-[900px]:overflow-y-auto">
      <Ways way={way} onChoose={choose} scope={choosing} />
      <div className="min-w-0 flex-1 space-y-4 overflow-y-auto p-4 max-[900px]:overflow-visible">
        {waiting > 0 && (
          <p role="status" className="border-l-2 border-straw pl-3">
            {count(waiting, "mark")} {waiting === 1 ? "is" : "are"} on the way. A plan can be made when{" "}
            {waiting === 1 ? "it has" : "they have"} arrived.
          </p>
        )}
        {/* Inert besides: a link to a list or an archive knows of no `disabled`. */}
        <fieldset disabled={waiting > 0} inert={waiting > 0} className="min-w-0 disabled:[&_a]:opacity-50">
          {way === "folder" && <ToFolder scope={scope} onMake={make} onChange={drop} />}
          {way === "names" && <OtherNames scope={scope} onMake={make} onChange={drop} />}
          {way === "editor" && <ToEditor scope={scope} />}
          {way === "sidecars" && <Sidecars onMake={make} />}
          {way === "list" && <ToList />}
          {way === "proof" && <ToProof scope={scope} onPlanned={propose} onChange={drop} />}
          {way === "answer" && <ClientAnswer scope={scope} />}
          {way === "whole" && <WholeShoot />}
          {way === "rejects" && <Rejects onMake={make} onChange={drop} />}
          {way === "holding" && <HoldingFolder onMake={make} onChange={drop} />}
        </fieldset>
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
      </div>
      <aside className="w-[330px] shrink-0 overflow-y-auto p-4 max-[1100px]:w-[270px] max-[900px]:w-full max-[900px]:overflow-visible">
        <h2 className="mb-2 text-xs font-semibold text-ink2">Done with this shoot's files</h2>
        {past?.length === 0 && (
          <p className="text-ink2">
            Nothing yet. A plan is shown before anything is touched, with counts and conflicts.
          </p>
        )}
        <ul className="space-y-2">
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
      </aside>
    </main>
  );
}
