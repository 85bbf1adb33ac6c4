import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import type { components } from "../../api/schema";
import { takeBackWalk } from "../../shoot/walk/takingBack";
import { usePasses, usePassesOfShoot } from "../../shoot/walk/usePasses";
import { beginPass, resumeWalk } from "../../shoot/walk/walking";
import { Button } from "../../ui/controls";
import { count, duration, figure, shortMoment } from "../../ui/format";
import { LargeDialog } from "../../ui/LargeDialog";
import { usePassesOpen } from "./open";
import { PassShelf } from "./PassShelf";

type Pass = components["schemas"]["Pass"];

/** The passes: begin one, go on with one; and a second page on which they are changed. */
export function PassesDialog() {
  const { open } = usePassesOpen();
  const [changing, setChanging] = useState(false);
  const setOpen = (now: boolean) => {
    usePassesOpen.setState({ open: now });
    setChanging(false);
  };
  return (
    <LargeDialog
      title={changing ? "Passes: copy, change, order" : "Passes"}
      width="w-[min(860px,96vw)]"
      open={open}
      onOpenChange={setOpen}
    >
      {changing ? (
        <PassShelf onBack={() => setChanging(false)} />
      ) : (
        <Choice onChange={() => setChanging(true)} onDone={() => setOpen(false)} />
      )}
    </LargeDialog>
  );
}

function Choice({ onChange, onDone }: { onChange: () => void; onDone: () => void }) {
  const client = useQueryClient();
  const passes = usePasses();
  const of = usePassesOfShoot(true);
  if (!passes || !of) return null;
  const all = new Map([...passes.ours, ...passes.own].map((one) => [one.name, one]));
  const open = of.walks.filter(({ ended_at, taken_back }) => !ended_at && !taken_back);
  const done = of.walks.filter(({ ended_at, taken_back }) => ended_at || taken_back);
  const ordered = passes.order.flatMap((name) => all.get(name) ?? []);
  const last = done.find(({ taken_back }) => !taken_back)?.name;
  const after = last === undefined ? 0 : ordered.findIndex(({ name }) => name === last) + 1;
  const next = [...ordered.slice(after), ...ordered].find(({ name }) => of.asked[name])?.name;
  const goOn = (id: number) => {
    onDone();
    void resumeWalk(id);
  };
  return (
    <div className="pt-3">
      {open.length > 0 && (
        <section aria-label="Begun" className="pb-4">
          <h3 className="pb-1 text-ink2">Begun</h3>
          <ul className="divide-y divide-edge border-y border-edge">
            {open.map((walk, place) => (
              <li key={walk.id} className="flex min-h-10 items-center gap-3">
                <Button look={place ? "plain" : "main"} autoFocus={!place} onClick={() => goOn(walk.id)}>
                  Go on with {walk.name}
                </Button>
                <span className="text-ink2">
                  {figure(walk.seen)} of {count(walk.total, "frame")}, {shortMoment(walk.begun_at)}
                </span>
              </li>
            ))}
          </ul>
        </section>
      )}
      <ol className="divide-y divide-edge border-y border-edge" aria-label="Passes, in their order">
        {ordered.map((one) => (
          <Row
            key={one.name}
            pass={one}
            asked={of.asked[one.name] ?? 0}
            isNext={!open.length && one.name === next}
            onDone={onDone}
          />
        ))}
      </ol>
      {done.length > 0 && (
        <section aria-label="Done" className="pt-4">
          <h3 className="pb-1 text-ink2">Done</h3>
          <ul className="max-h-40 divide-y divide-edge overflow-y-auto border-y border-edge">
            {done.map((walk) => (
              <li key={walk.id} className="flex min-h-9 items-center gap-3">
                <span className={walk.taken_back ? "line-through" : ""}>{walk.name}</span>
                <span className="flex-1 text-ink2">
                  {count(walk.total, "frame")}, {shortMoment(walk.begun_at)}, {duration(walk.seconds)}
                  {walk.taken_back && ", undone"}
                </span>
                {!walk.taken_back && (
                  <>
                    <button
                      type="button"
                      onClick={() => goOn(walk.id)}
                      className="min-h-6 underline underline-offset-2"
                    >
                      go in again<span className="sr-only">: {walk.name}</span>
                    </button>
                    <button
                      type="button"
                      onClick={() =>
                        void takeBackWalk(walk.id).then(() =>
                          client.invalidateQueries({ queryKey: ["passes"] }),
                        )
                      }
                      className="min-h-6 underline underline-offset-2"
                    >
                      undo the whole pass<span className="sr-only">: {walk.name}</span>
                    </button>
                  </>
                )}
              </li>
            ))}
          </ul>
        </section>
      )}
      <div className="flex items-center gap-3 pt-4">
        <span className="flex-1 text-ink2">
          In a pass only its own keys are in force. You can leave at any time and come back.
        </span>
        <Button onClick={onChange}>Copy, change, order …</Button>
      </div>
    </div>
  );
}

interface RowProps {
  pass: Pass;
  asked: number;
  isNext: boolean;
  onDone: () => void;
}

function Row({ pass, asked, isNext, onDone }: RowProps) {
  const [warnedFirst, setWarnedFirst] = useState(pass.warned_first);
  return (
    <li className="flex min-h-11 items-center gap-3">
      <Button
        look={isNext ? "main" : "plain"}
        autoFocus={isNext}
        disabled={!asked}
        className="w-32 truncate text-left"
        onClick={() => {
          onDone();
          void beginPass(pass.name, warnedFirst);
        }}
      >
        {pass.name}
      </Button>
      <span className="min-w-0 flex-1 leading-tight">
        {pass.question}
        <span className="block text-xs text-ink2">{inShort(pass)}</span>
      </span>
      {pass.order === "frame by frame" && (
        <label className="flex min-h-6 items-center gap-1.5 text-xs text-ink2">
          <input
            type="checkbox"
            checked={warnedFirst}
            onChange={(event) => setWarnedFirst(event.target.checked)}
          />
          warnings first
        </label>
      )}
      <span className="w-24 text-right text-ink2 tabular-nums">{count(asked, "frame")}</span>
    </li>
  );
}

/** What a pass is, in a few words. */
function inShort({ scope, start, order, leaves }: Pass): string {
  return [
    scope || "all frames",
    ...(start === "all kept" ? ["all start kept"] : []),
    ...(start === "open again" ? ["what a pass kept is open again"] : []),
    order,
    ...(leaves === "nothing" ? [] : [`${leaves} leave`]),
  ].join(" · ");
}
