import type { PlanView, PlanWish } from "../../api/client";
import { Button } from "../../ui/controls";
import { bytes, count, figure, moment, shortName } from "../../ui/format";
import { ReportDialog } from "./ReportDialog";
import type { PlanAct } from "./usePlans";

type Kind = PlanView["kind"];

const TITLES: Record<Kind, string> = {
  "copy-keepers": "Copy the keepers",
  "move-keepers": "Move the keepers",
  "hold-rejects": "Hold the rejects back",
  "bring-back": "Bring rejects back",
  "write-sidecars": "Write the marks into sidecars",
  import: "Copy from a card",
  rename: "Other names",
  bin: "Off the disk, to the system's bin",
  proof: "Lay out a proof set",
  "write-inside": "Write the marks into the files",
};

/** What a plan does, with the filter where it is not about the keepers. */
export function titleOf({ kind, wish, named }: PlanView): string {
  if (named && (kind === "copy-keepers" || kind === "move-keepers"))
    return `${DONE_WORDS[kind].act} ${count(named, "frame")}`;
  return wish?.show ? `${DONE_WORDS[kind].act}: ${wish.show}` : TITLES[kind];
}

export const DONE_WORDS: Record<Kind, { act: string; done: string; back: string }> = {
  "copy-keepers": { act: "Copy", done: "copied", back: "Remove the copies" },
  "move-keepers": { act: "Move", done: "moved", back: "Move back" },
  "hold-rejects": { act: "Move", done: "held back", back: "Bring these back" },
  "bring-back": { act: "Move", done: "brought back", back: "Hold back again" },
  "write-sidecars": { act: "Write", done: "written", back: "Put the sidecars back" },
  import: { act: "Copy", done: "copied", back: "Remove the copies" },
  rename: { act: "Rename", done: "renamed", back: "Give the old names back" },
  bin: { act: "Put in the bin:", done: "in the bin", back: "" },
  "write-inside": { act: "Write into", done: "written into", back: "Put the files back" },
  proof: { act: "Make", done: "made", back: "Remove the proof set" },
};

const STATES: Record<string, string> = {
  made: "under way",
  applied: "done",
  applying: "under way",
  stopped: "stopped half way",
  reversing: "being taken back",
  "reversal-stopped": "stopped while being taken back",
  reversed: "taken back",
  outdated: "not done",
};

interface Props {
  plan: PlanView;
  running: { done: number; total: number } | undefined;
  onAct: (what: PlanAct) => void;
  onMakeAnew: (wish: PlanWish) => void;
}

/** A plan that was applied, or is being applied. */
export function PlanCard({ plan, running, onAct, onMakeAnew }: Props) {
  const busy = plan.running || running !== undefined;
  return (
    <article
      data-testid="past-plan"
      data-state={plan.state}
      className="rounded-lg border border-edge bg-wall p-3"
    >
      <h3 className="flex flex-wrap justify-between gap-x-4 font-semibold">
        {titleOf(plan)}
        <span className="font-normal text-ink2">
          {STATES[plan.state] ?? plan.state} · {moment(plan.made_at)}
        </span>
      </h3>
      <p className="mt-1 text-ink2">
        {count(plan.frames, "frame")}, {count(plan.files, "file")}, {bytes(plan.bytes)}
        {plan.target && <span className="break-all"> · {plan.target}</span>}
        {plan.second && <span className="break-all"> and {plan.second}</span>}
        {plan.state === "reversed" && ` · ${figure(plan.undone)} undone`}
        {plan.skipped > 0 && ` · ${count(plan.skipped, "file")} here already`}
      </p>
      {busy && (
        <div className="mt-2 flex items-center gap-3">
          <progress
            aria-label="Files done"
            className="h-1.5 flex-1 appearance-none overflow-hidden rounded bg-line [&::-moz-progress-bar]:bg-straw [&::-webkit-progress-bar]:bg-line [&::-webkit-progress-value]:bg-straw"
            value={running?.done ?? 0}
            max={running?.total || plan.files}
          />
          <span>
            {figure(running?.done ?? 0)} of {figure(running?.total ?? plan.files)}
          </span>
          <Button onClick={() => onAct("stop")}>Stop</Button>
        </div>
      )}
      {plan.error && (
        <p role="alert" className="mt-2 border-l-2 border-straw pl-2">
          {plan.error}
        </p>
      )}
      {plan.state === "outdated" && (
        <div role="alert" className="mt-2 border-l-2 border-straw pl-2">
          What it was made from has changed since, so nothing was done:
          <ul className="text-ink2">
            {plan.differs.map((said) => (
              <li key={said}>{said}</li>
            ))}
          </ul>
        </div>
      )}
      {plan.remarks.length > 0 && (
        <details className="mt-2">
          <summary>{count(plan.remarks.length, "file")} done with a remark</summary>
          <ul className="max-h-40 overflow-y-auto text-ink2">
            {plan.remarks.map((remark) => (
              <li key={remark.target}>
                {shortName(remark.target)}: {remark.reason}
              </li>
            ))}
          </ul>
        </details>
      )}
      {plan.left.length > 0 && (
        <div className="mt-2">
          {count(plan.left.length, "file")} left as they were:
          <ul className="text-ink2">
            {plan.left.map((left) => (
              <li key={left.target}>{left.reason}</li>
            ))}
          </ul>
        </div>
      )}
      {!busy && (
        <div className="mt-2 flex flex-wrap gap-2 empty:hidden">
          {plan.state === "stopped" && <Button onClick={() => onAct("apply")}>Go on</Button>}
          {(plan.state === "stopped" || plan.state === "reversal-stopped") && (
            <Button onClick={() => onAct("reverse")}>{plan.final ? "Leave the rest" : "Roll back"}</Button>
          )}
          {plan.reversible && <Button onClick={() => onAct("reverse")}>{DONE_WORDS[plan.kind].back}</Button>}
          {plan.kind === "import" && <ReportDialog planId={plan.id} />}
          {plan.state === "outdated" && plan.wish && (
            <Button onClick={() => plan.wish && onMakeAnew(plan.wish)}>Make the plan anew</Button>
          )}
        </div>
      )}
    </article>
  );
}
