import { useEffect } from "react";
import { keyOf } from "../../keys/inForce";
import { useShoot } from "../../shoot/store";
import { useCard } from "../../shoot/useCard";
import { useWalk } from "../../shoot/walk/store";
import { Button, Kbd } from "../../ui/controls";
import { usePanels } from "../shown";
import { beginGuide, leaveGuide, STEPS, stepDone, useGuide } from "./guide";

const CARD =
  "fixed right-3 bottom-12 z-30 w-[min(340px,90vw)] rounded-lg border border-straw bg-wall p-3.5 shadow-xl";

/** The first walk: offered on the demo shoot, called again at any time. */
export function Guide() {
  const { done, left } = useGuide();
  const isDemo = useCard(useShoot((s) => s.shootId))?.demo;
  const bare = usePanels((s) => s.bare);
  const inPass = useWalk((s) => s.walk !== null);
  if (done !== null) return <Steps done={done} />;
  return isDemo && !left && !bare && !inPass ? <Offer /> : null;
}

function Offer() {
  return (
    <aside aria-label="First steps" className={CARD}>
      <h2 className="font-semibold">New here?</h2>
      <p className="pt-1 text-ink2">Six steps on these pictures, each done by doing it.</p>
      <div className="flex gap-2 pt-3">
        <Button look="main" onClick={beginGuide}>
          Begin
        </Button>
        <Button onClick={leaveGuide}>Not now</Button>
      </div>
    </aside>
  );
}

function Steps({ done }: { done: number }) {
  const step = STEPS[done];
  useEffect(() => step?.watch(stepDone), [step]);
  return (
    <aside aria-label="First steps" aria-live="polite" data-testid="guide" className={CARD}>
      <p className="flex items-center gap-1.5 text-xs text-ink2">
        {STEPS.map(({ command }, at) => (
          <span
            key={command}
            className={`h-1.5 w-6 rounded-full ${at < done ? "bg-straw" : at === done ? "bg-ink3" : "bg-held"}`}
          />
        ))}
        <span className="flex-1 pl-1">
          {step ? `step ${done + 1} of ${STEPS.length}` : "all six steps done"}
        </span>
        <button
          type="button"
          onClick={leaveGuide}
          className="min-h-6 underline underline-offset-2 hover:text-ink"
        >
          {step ? "leave" : "close"}
        </button>
      </p>
      {step ? (
        <>
          <p className="flex items-center gap-2 pt-1 text-[15px]">
            {step.text} <Kbd>{keyOf(step.command)}</Kbd>
          </p>
          <p className="pt-1 text-ink2">{step.why}</p>
        </>
      ) : (
        <p className="pt-1">
          That is all it takes. <Kbd>{keyOf("keys")}</Kbd> lists the keys in force,{" "}
          <Kbd>{keyOf("palette")}</Kbd> finds anything by a few letters.
        </p>
      )}
    </aside>
  );
}
