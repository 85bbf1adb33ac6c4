import { Fragment } from "react";
import { keyOf, runCommand } from "../../keys/inForce";
import { useLabels } from "../../shoot/labels";
import { type Pass, useWalk } from "../../shoot/walk/store";
import { Kbd } from "../../ui/controls";
import { LabelSign } from "../labels/LabelSign";

/** The few keys of the pass that one is in, to be pressed here as well. */
export function PassKeys({ screen }: { screen: string }) {
  const walk = useWalk((s) => s.walk);
  const isTogether = useWalk((s) => s.bulk !== null);
  const ended = useWalk((s) => s.ended);
  if (!walk) return null;
  return (
    <>
      {!ended && !isTogether && <InForce pass={walk.definition} screen={screen} />}
      <span className="flex-1" />
      <span className="min-w-0 truncate max-[1180px]:hidden">other marks rest until you leave</span>
      <button
        type="button"
        onClick={(event) => runCommand(screen, "back", event.timeStamp)}
        className="flex min-h-6 shrink-0 items-center gap-1.5 hover:text-ink"
      >
        <Kbd>{keyOf("back")}</Kbd> {isTogether ? "frame by frame" : "leave, come back"}
      </button>
    </>
  );
}

function InForce({ pass, screen }: { pass: Pass; screen: string }) {
  const press = (id: string) => (event: { timeStamp: number }) => runCommand(screen, id, event.timeStamp);
  return (
    <>
      <b className="font-semibold text-ink max-[1180px]:hidden">In this pass:</b>
      {pass.keys.map(({ does, says }) => (
        <Fragment key={does}>
          {does === "stars" ? (
            <span className="flex items-center gap-1.5">
              <Kbd>{keyOf("unrate")}</Kbd>–<Kbd>{keyOf("rate-5")}</Kbd> {says || "stars"}
            </span>
          ) : does === "labels" ? (
            <Labels />
          ) : (
            <button
              type="button"
              onClick={press(does === "turn" ? "turn-right" : does)}
              className="flex min-h-6 items-center gap-1.5 hover:text-ink"
            >
              <Kbd>{keyOf(does === "turn" ? "turn-right" : does)}</Kbd> {says || does}
            </button>
          )}
        </Fragment>
      ))}
      {pass.bulk.length > 0 && (
        <button
          type="button"
          onClick={press("at-once")}
          className="flex min-h-6 items-center gap-1.5 hover:text-ink"
        >
          <Kbd>{keyOf("at-once")}</Kbd> several at once
        </button>
      )}
    </>
  );
}

/** The labels with their keys, shapes and names: who sorts must not have to remember them. */
function Labels() {
  const labels = useLabels((s) => s.labels);
  return labels.map(({ id, name, key }) => (
    <span key={id} className="flex items-center gap-1">
      {key && <Kbd>{key.toUpperCase()}</Kbd>}
      <LabelSign named={id} size={12} /> {name}
    </span>
  ));
}
