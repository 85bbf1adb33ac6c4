import { useQuery, useQueryClient } from "@tanstack/react-query";
import { type ReactNode, useCallback, useState } from "react";
import { api, type PlanView, type PlanWish, unwrap } from "../api/client";
import { type News, useNews } from "../api/events";
import { Button, Chip } from "../parts/controls";
import { bytes, count } from "../parts/format";
import { useShoot } from "../shoot/store";
import { FolderChooser } from "../shoots/FolderChooser";
import { Conflicts } from "./Conflicts";
import { DONE_WORDS, PlanCard, TITLES } from "./PlanCard";

/** Everything that leaves: keepers out, rejects held back, marks into sidecars. */
export function Handoff({ shootId }: { shootId: number }) {
  const client = useQueryClient();
  const view = useShoot((s) => s.view);
  const [target, setTarget] = useState("");
  const [withMarks, setWithMarks] = useState(true);
  const [keepFolders, setKeepFolders] = useState(false);
  const [plan, setPlan] = useState<PlanView | null>(null);
  const [error, setError] = useState<string | null>(null);
  const [running, setRunning] = useState<Record<number, { done: number; total: number }>>({});
  const past = useQuery({
    queryKey: ["plans", shootId],
    queryFn: () =>
      api.GET("/api/shoots/{shoot_id}/plans", { params: { path: { shoot_id: shootId } } }).then(unwrap),
  });
  useNews(
    useCallback(
      (news: News) => {
        if (news.shoot_id !== shootId) return;
        if (news.kind === "plan") setRunning((now) => ({ ...now, [news.plan_id]: news }));
        if (news.kind === "plan-ended") {
          setRunning(({ [news.plan_id]: _, ...rest }) => rest);
          void client.invalidateQueries({ queryKey: ["plans", shootId] });
        }
      },
      [client, shootId],
    ),
  );
  const attempt = async (request: () => Promise<PlanView>) => {
    setError(null);
    try {
      return await request();
    } catch (problem) {
      setError(problem instanceof Error ? problem.message : String(problem));
      return null;
    }
  };
  // A plan on screen that says something else than the options beside it would be applied by mistake.
  const change = <T,>(set: (value: T) => void) => {
    return (value: T) => {
      set(value);
      setPlan(null);
    };
  };
  const make = async (wish: PlanWish | (Pick<PlanWish, "kind"> & { target?: string })) => {
    setPlan(null);
    setPlan(
      await attempt(() =>
        api
          .POST("/api/shoots/{shoot_id}/plans", {
            params: { path: { shoot_id: shootId } },
            body: { with_marks: withMarks, keep_folders: keepFolders, mine: [], all_mine: false, ...wish },
          })
          .then(unwrap),
      ),
    );
  };
  const act = async (planId: number, what: "apply" | "reverse" | "stop") => {
    const done = await attempt(() =>
      api.POST(`/api/plans/{plan_id}/${what}`, { params: { path: { plan_id: planId } } }).then(unwrap),
    );
    if (done && what === "apply") setPlan(null);
    await client.invalidateQueries({ queryKey: ["plans", shootId] });
  };
  const tally = view?.tally.decisions;
  const picks = tally?.pick ?? 0;
  const rejects = tally?.reject ?? 0;
  const held = view?.held ?? 0;
  return (
    <main className="flex min-w-0 flex-1">
      <div className="w-[430px] shrink-0 space-y-4 overflow-y-auto border-r border-edge p-5">
        <Card title="Keepers to a folder" count={count(picks, "keeper")}>
          <div className="flex items-center gap-2">
            <span
              className={`min-w-0 flex-1 truncate ${target ? "" : "text-ink2"}`}
              title={target}
              data-testid="target"
            >
              {target || "no folder chosen yet"}
            </span>
            <FolderChooser
              title="Where the keepers go"
              act="Choose"
              mayBeNew
              trigger={<Button>Choose a folder …</Button>}
              onChoose={async (path) => {
                change(setTarget)(path);
                return undefined;
              }}
            />
          </div>
          <div className="mt-3 flex flex-wrap gap-2">
            <Chip on={withMarks} onClick={() => change(setWithMarks)(!withMarks)}>
              sidecars with the marks go along
            </Chip>
            <Chip on={keepFolders} onClick={() => change(setKeepFolders)(!keepFolders)}>
              keep sub-folders
            </Chip>
          </div>
          <div className="mt-3 flex gap-2">
            <Button disabled={!picks || !target} onClick={() => make({ kind: "copy-keepers", target })}>
              Plan a copy
            </Button>
            <Button disabled={!picks || !target} onClick={() => make({ kind: "move-keepers", target })}>
              Plan a move
            </Button>
          </div>
        </Card>
        <Card title="Rejects off the shoot" count={count(rejects, "reject")}>
          <p className="text-ink2">
            They move to a holding folder beside the shoot. Nothing is deleted, and they can be brought back.
          </p>
          <div className="mt-3 flex gap-2">
            <Button disabled={!rejects} onClick={() => make({ kind: "hold-rejects" })}>
              Plan to hold them back
            </Button>
            <Button disabled={!held} onClick={() => make({ kind: "bring-back" })}>
              Bring back {held || ""}
            </Button>
          </div>
        </Card>
        <Card title="Marks into sidecars" count="">
          <p className="text-ink2">
            XMP files beside the originals, for the editing program to read. What others wrote in them stays;
            the originals are not touched.
          </p>
          <div className="mt-3">
            <Button disabled={!view?.total} onClick={() => make({ kind: "write-sidecars" })}>
              Plan the sidecars
            </Button>
          </div>
        </Card>
      </div>
      <div className="min-w-0 flex-1 space-y-4 overflow-y-auto p-5">
        {error && (
          <p role="alert" className="border-l-2 border-straw pl-3">
            {error}
          </p>
        )}
        {plan && (
          <Proposed
            plan={plan}
            apply={() => act(plan.id, "apply")}
            drop={() => setPlan(null)}
            makeAnew={(wish) => make(wish)}
          />
        )}
        <h2 className="font-semibold text-ink2">Done with this shoot's files</h2>
        {past.data?.length === 0 && !plan && (
          <p className="text-ink2">
            Nothing yet. Choose on the left: a plan is shown here first, with counts and conflicts, and every
            plan can be taken back.
          </p>
        )}
        <ul className="space-y-3">
          {past.data?.map((done) => (
            <li key={done.id}>
              <PlanCard
                plan={done}
                running={running[done.id]}
                act={(what) => act(done.id, what)}
                makeAnew={make}
              />
            </li>
          ))}
        </ul>
      </div>
    </main>
  );
}

function Card({ title, count: text, children }: { title: string; count: string; children: ReactNode }) {
  return (
    <section className="rounded-lg border border-edge bg-wall p-4">
      <h2 className="mb-2 flex justify-between text-[15px] font-semibold">
        {title} <span className="text-[13px] font-normal text-ink2">{text}</span>
      </h2>
      {children}
    </section>
  );
}

/** A plan that was made and not applied: all it would do. */
function Proposed({
  plan,
  apply,
  drop,
  makeAnew,
}: {
  plan: PlanView;
  apply: () => void;
  drop: () => void;
  makeAnew: (wish: PlanWish) => void;
}) {
  const short = (path: string | null) => path?.split("/").slice(-2).join("/") ?? "new";
  return (
    <section aria-label="Plan" data-testid="plan" className="rounded-lg border-2 border-straw bg-wall p-4">
      <h2 className="text-[15px] font-semibold">{TITLES[plan.kind]}</h2>
      <p className="mt-1">
        {count(plan.frames, "frame")}, {count(plan.files, "file")}, {bytes(plan.bytes)}
        {plan.target && (
          <>
            {" "}
            to <b className="font-semibold break-all">{plan.target}</b>
          </>
        )}
      </p>
      {plan.blocked && (
        <p role="alert" className="mt-2 border-l-2 border-straw pl-2">
          {plan.blocked}
        </p>
      )}
      {plan.renamed_count > 0 && (
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
      )}
      <Conflicts plan={plan} makeAnew={makeAnew} />
      {plan.warnings.length > 0 && (
        <ul className="mt-2 max-h-24 overflow-y-auto">
          {plan.warnings.map((warning) => (
            <li key={warning}>{warning}</li>
          ))}
        </ul>
      )}
      <div className="mt-3 flex gap-2">
        <Button look="main" disabled={!!plan.blocked} onClick={apply}>
          {DONE_WORDS[plan.kind].act} {count(plan.files, "file")}
        </Button>
        <Button onClick={drop}>Leave it</Button>
      </div>
      {plan.steps.length > 0 && (
        <details className="mt-3">
          <summary className="text-ink2">
            {plan.steps.length < plan.files
              ? `The first ${plan.steps.length} of ${plan.files} steps`
              : "Every step"}
          </summary>
          <ul className="mt-1 max-h-60 overflow-y-auto text-xs text-ink2">
            {plan.steps.map((step) => (
              <li key={`${step.action} ${step.target}`} title={`${step.source ?? ""} → ${step.target}`}>
                {step.action} {step.source !== step.target && `${short(step.source)} → `}
                {short(step.target)}
              </li>
            ))}
          </ul>
        </details>
      )}
    </section>
  );
}
