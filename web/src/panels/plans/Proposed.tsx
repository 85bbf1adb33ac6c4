import type { PlanView, PlanWish } from "../../api/client";
import { Button } from "../../ui/controls";
import { bytes, count } from "../../ui/format";
import { Conflicts } from "./Conflicts";
import { DONE_WORDS, titleOf } from "./PlanCard";

interface Props {
  plan: PlanView;
  onApply: () => void;
  onDrop: () => void;
  onMakeAnew: (wish: PlanWish) => void;
}

/** A plan that was made and not applied: all it would do. */
export function Proposed({ plan, onApply, onDrop, onMakeAnew }: Props) {
  return (
    <section aria-label="Plan" data-testid="plan" className="rounded-lg border-2 border-straw bg-wall p-4">
      <h2 className="text-[15px] font-semibold">{titleOf(plan)}</h2>
      <p className="mt-1">
        {count(plan.frames, "frame")}, {count(plan.files, "file")}, {bytes(plan.bytes)}
        {plan.target && (
          <>
            {" "}
            to <b className="font-semibold break-all">{plan.target}</b>
            {plan.second && (
              <>
                {" "}
                and <b className="font-semibold break-all">{plan.second}</b>
              </>
            )}
          </>
        )}
      </p>
      {plan.skipped > 0 && (
        <p className="mt-1 text-ink2">
          {count(plan.skipped, "file")} here already, by content: not copied again.
        </p>
      )}
      {plan.blocked && (
        <p role="alert" className="mt-2 border-l-2 border-straw pl-2">
          {plan.blocked}
        </p>
      )}
      {plan.final && (
        <p className="mt-2 border-l-2 border-straw pl-2">
          Winnow cannot take this back: what is in the system's bin is brought back there, until it is
          emptied.
        </p>
      )}
      <Renamed plan={plan} />
      <Conflicts plan={plan} onMakeAnew={onMakeAnew} />
      {plan.warnings.length > 0 && (
        <ul className="mt-2 max-h-24 overflow-y-auto">
          {plan.warnings.map((warning) => (
            <li key={warning}>{warning}</li>
          ))}
        </ul>
      )}
      <div className="mt-3 flex gap-2">
        <Button look="main" disabled={!!plan.blocked} onClick={onApply}>
          {DONE_WORDS[plan.kind].act} {count(plan.files, "file")}
        </Button>
        <Button onClick={onDrop}>Leave it</Button>
      </div>
      <Steps plan={plan} />
    </section>
  );
}

function Renamed({ plan }: { plan: PlanView }) {
  if (!plan.renamed_count) return null;
  return (
    <div className="mt-2">
      {count(plan.renamed_count, "name")} taken in the target, these get a suffix; nothing is overwritten:
      <ul className="mt-1 max-h-24 overflow-y-auto text-ink2">
        {plan.renamed.map((name) => (
          <li key={name.new}>
            {name.old} → {name.new}
          </li>
        ))}
      </ul>
    </div>
  );
}

function Steps({ plan }: { plan: PlanView }) {
  if (!plan.steps.length) return null;
  return (
    <details className="mt-3">
      <summary className="text-ink2">
        {plan.steps.length < plan.files
          ? `The first ${plan.steps.length} of ${plan.files} steps`
          : "Every step"}
      </summary>
      <ul className="mt-1 max-h-60 overflow-y-auto text-xs text-ink2">
        {plan.steps.map((step) => (
          <li key={`${step.action} ${step.target}`} title={`${step.source ?? ""} → ${step.target}`}>
            {step.action} {step.source !== step.target && `${ending(step.source)} → `}
            {ending(step.target)}
          </li>
        ))}
      </ul>
    </details>
  );
}

function ending(path: string | null): string {
  return path?.split("/").slice(-2).join("/") ?? "new";
}
