import { Progress } from "radix-ui";
import { useEffect, useReducer } from "react";
import { useShoot } from "../../shoot/store";
import { useWalk } from "../../shoot/walk/store";
import { usePasses } from "../../shoot/walk/usePasses";
import { howFar } from "../../shoot/walk/walking";
import { figure } from "../../ui/format";
import { usePanels } from "../shown";
import { PassKeys } from "./PassKeys";

/** How often pace and time left are worked out anew, ms. */
const ANEW_MS = 1000;

/** The question of the pass that one is in, how far it is, and how fast one goes. */
export function PassLine() {
  const walk = useWalk((s) => s.walk);
  return walk ? <Line name={walk.name} question={walk.definition.question} /> : null;
}

function Line({ name, question }: { name: string; question: string }) {
  const order = usePasses()?.order ?? [];
  const at = order.indexOf(name);
  const bare = usePanels((s) => s.bare);
  return (
    <section
      aria-label="The pass you are in"
      data-testid="pass-line"
      className="flex min-h-11 shrink-0 flex-wrap items-center gap-x-3 border-b border-edge bg-wall px-4"
    >
      <span className="text-ink2">{at < 0 ? "pass" : `pass ${at + 1} of ${order.length}`}</span>
      <b className="text-base font-semibold">{name}</b>
      <span className={`min-w-0 truncate text-[15px] ${bare ? "" : "flex-1"}`}>{question}</span>
      {/* Where only pictures are shown, nothing else says them. */}
      {bare && <PassKeys screen="bench" />}
      <HowFar />
    </section>
  );
}

function HowFar() {
  useWalk((s) => s.seen);
  useShoot((s) => s.frames);
  const [, again] = useReducer((n: number) => n + 1, 0);
  useEffect(() => {
    const timer = setInterval(again, ANEW_MS);
    return () => clearInterval(timer);
  }, []);
  const far = howFar();
  if (!far) return null;
  const { done, total, perMinute, minutesLeft } = far;
  return (
    <>
      <Progress.Root
        aria-label="Done with"
        value={done}
        max={Math.max(1, total)}
        className="h-1.5 w-56 overflow-hidden rounded-full bg-held max-[1100px]:w-24"
      >
        <Progress.Indicator
          className="h-full bg-straw"
          style={{ width: `${(100 * done) / Math.max(1, total)}%` }}
        />
      </Progress.Root>
      <output className="text-ink2 tabular-nums" data-testid="how-far">
        {figure(done)} of {figure(total)}
        {done < total && ` · ${figure(total - done)} left`}
        {perMinute !== null && ` · ${Math.round(perMinute)} a minute`}
        {minutesLeft !== null && done < total && ` · ${inMinutes(minutesLeft)} to go`}
      </output>
    </>
  );
}

function inMinutes(minutes: number): string {
  if (minutes < 1) return "under a minute";
  return minutes < 90 ? `${Math.ceil(minutes)} min` : `${(minutes / 60).toFixed(1)} h`;
}
