import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { api, unwrap } from "../../api/client";
import type { components } from "../../api/schema";
import { goToScreen } from "../../shoot/address";
import { isBusy, useOutbox } from "../../shoot/outbox/outbox";
import { useShoot } from "../../shoot/store";
import { goBackIn } from "../../shoot/walk/ending";
import { type OpenWalk, useWalk } from "../../shoot/walk/store";
import { takeBackWalk } from "../../shoot/walk/takingBack";
import { beginPass } from "../../shoot/walk/walking";
import { Button } from "../../ui/controls";
import { count, duration, figure } from "../../ui/format";
import { StillMissing } from "../filter/StillMissing";
import { openPasses } from "./open";

type Outcome = components["schemas"]["WalkOutcome"];

/** The end of a pass, in the place of the pictures: what it did, and what is next. */
export function PassEnd() {
  const walk = useWalk((s) => s.walk);
  return walk && <End walk={walk} />;
}

function End({ walk }: { walk: OpenWalk }) {
  const told = useWalk((s) => s.told);
  const revision = useShoot((s) => s.revision);
  // The last marks may be on the way yet.
  const waiting = useOutbox(() => isBusy(walk.shoot_id));
  const { data } = useQuery({
    queryKey: ["outcome", walk.id, revision, waiting, told],
    placeholderData: keepPreviousData,
    staleTime: 0,
    queryFn: () =>
      api
        .GET("/api/shoots/{shoot_id}/passes/{walk_id}/outcome", {
          params: { path: { shoot_id: walk.shoot_id, walk_id: walk.id } },
        })
        .then(unwrap),
  });
  return (
    <main className="grid min-w-0 flex-1 place-items-center overflow-y-auto p-6" data-testid="pass-end">
      {data && <What outcome={data} walk={walk} />}
    </main>
  );
}

function What({ outcome, walk }: { outcome: Outcome; walk: OpenWalk }) {
  const { decisions, changed, rated, labelled, next } = outcome;
  const { seconds, total } = outcome.walk;
  const figures: [string, number][] = [
    ["kept", decisions.keep ?? 0],
    ["rejected", decisions.reject ?? 0],
    ["undecided", decisions.undecided ?? 0],
  ];
  return (
    <div className="w-[min(680px,100%)]">
      <h2 className="text-ink2">{walk.name} is done</h2>
      <p className="pt-1 text-lg">{walk.definition.question}</p>
      <dl className="flex gap-8 pt-5">
        {figures.map(([word, n]) => (
          <div key={word} className="flex flex-col-reverse">
            <dt className="text-ink2">{word}</dt>
            <dd className="text-3xl font-semibold tabular-nums">{figure(n)}</dd>
          </div>
        ))}
      </dl>
      <p className="pt-4 text-ink2">
        {count(total, "frame")} in {duration(seconds)}
        {seconds >= 3 && `, ${Math.round((total * 60) / seconds)} a minute`}.{" "}
        {changed
          ? `${count(changed, "frame")} decided otherwise than ${changed === 1 ? "it" : "they"} started.`
          : "No decision was changed."}
        {rated > 0 && ` ${count(rated, "frame")} given other stars.`}
        {labelled > 0 && ` ${count(labelled, "frame")} given another label.`}
      </p>
      <StillMissing />
      <div className="flex flex-wrap gap-2 pt-6">
        {next ? (
          <Button look="main" autoFocus onClick={() => void beginPass(next.name)}>
            Next: {next.name}, {count(next.frames, "frame")}
          </Button>
        ) : (
          <Button look="main" autoFocus onClick={() => goToScreen("handoff")}>
            Hand the keepers on
          </Button>
        )}
        <Button onClick={goBackIn}>Back to the pictures</Button>
        <Button onClick={openPasses}>Other passes …</Button>
        <Button onClick={() => void takeBackWalk(walk.id)}>Undo the whole pass</Button>
      </div>
    </div>
  );
}
