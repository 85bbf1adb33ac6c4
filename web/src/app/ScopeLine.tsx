import { useDeferredValue } from "react";
import { keyOf, runCommand } from "../keys/inForce";
import { LabelSign } from "../panels/labels/LabelSign";
import { PassKeys } from "../panels/passes/PassKeys";
import { togglePanel } from "../panels/shown";
import { useActiveSeen } from "../screens/wall/sight";
import { commonInWords } from "../shoot/common";
import { useLabels } from "../shoot/labels";
import { undoMark } from "../shoot/marking";
import { isBusy, useOutbox } from "../shoot/outbox/outbox";
import { callSelectionBack, canBeCalledBack, clearSelection } from "../shoot/selecting";
import { activeFrame, useShoot } from "../shoot/store";
import { useWalk } from "../shoot/walk/store";
import { Hint, Kbd } from "../ui/controls";
import { count, figure, shortName } from "../ui/format";
import { GoOn } from "./GoOn";
import { showKeys } from "./overlay";
import { Painting } from "./Painting";
import { hasFrames, type Screen } from "./screens";
import { WaitingMarks } from "./WaitingMarks";

/** What the next key acts on, the keys for it, the last action with its undo, and what waits for the server. */
export function ScopeLine({ screen }: { screen: Screen }) {
  const inPass = useWalk((s) => s.walk !== null);
  const ended = useWalk((s) => s.ended);
  return (
    <footer className="flex h-9 shrink-0 items-center gap-4 overflow-hidden border-t border-edge bg-wall px-3.5 whitespace-nowrap text-ink2">
      {!hasFrames(screen) ? (
        <span>Marks are made and taken back on the wall and the bench</span>
      ) : (
        <>
          {!ended && <Scope selecting={screen === "wall"} />}
          {inPass ? <PassKeys screen={screen} /> : <OwnKeys screen={screen} />}
        </>
      )}
      {!inPass && <span className="flex-1" />}
      {hasFrames(screen) && <LastAction />}
      <WaitingMarks />
      <Hint text="The keys in force" command="keys">
        <button
          type="button"
          aria-label="The keys in force"
          onClick={() => showKeys(true)}
          className="min-h-6"
        >
          <Kbd>{keyOf("keys")}</Kbd>
        </button>
      </Hint>
      {hasFrames(screen) && !inPass && (
        <span className="flex items-center gap-1.5 max-[1180px]:hidden">
          <Kbd>Enter</Kbd> {screen === "wall" ? "bench" : "wall"}
        </span>
      )}
    </footer>
  );
}

function OwnKeys({ screen }: { screen: Screen }) {
  return (
    <>
      <MarkKeys screen={screen} />
      <GoOn />
      {screen === "wall" && <Painting />}
    </>
  );
}

/** `selecting`: where a selection counts. */
function Scope({ selecting }: { selecting: boolean }) {
  const name = useDeferredValue(useShoot((s) => activeFrame(s)?.name));
  const selected = useShoot((s) => (selecting ? s.selection.size : 0));
  const putAway = useShoot((s) => (selecting && !s.selection.size ? canBeCalledBack(s).length : 0));
  const seen = useActiveSeen((s) => s.seen);
  const common = useShoot((s) => (selecting ? commonInWords(s) : ""));
  const together = useWalk((s) => (s.bulk ? s.bulk.ids.length - s.bulk.out.size : null));
  const one = together === null ? scopeInWords(name, seen) : `${count(together, "frame")} together`;
  const scope = selected ? count(selected, "selected frame") : one;
  return (
    <>
      <output aria-live="off" data-testid="scope">
        <span className="text-ink">Next key acts on </span>
        <span
          className={`ml-0.5 rounded border px-2 py-0.5 text-ink ${selected > 1 ? "border-dashed border-straw bg-warm" : "border-straw"}`}
        >
          {scope}
        </span>
        {common && <span className="ml-2 max-[1180px]:sr-only">{common}</span>}
      </output>
      {selected > 0 && (
        <Hint text="Select nothing" command="select-none">
          <button type="button" onClick={clearSelection} className="min-h-6 underline underline-offset-2">
            select nothing
          </button>
        </Hint>
      )}
      {putAway > 0 && (
        <Hint text="Selected when the wall was left" command="select-again">
          <button type="button" onClick={callSelectionBack} className="min-h-6 underline underline-offset-2">
            select {putAway} again
          </button>
        </Hint>
      )}
    </>
  );
}

function scopeInWords(name: string | undefined, seen: boolean): string {
  if (!name) return "nothing";
  return seen ? `frame ${shortName(name)}` : `nothing: ${shortName(name)} is out of sight`;
}

/** The labels, with their keys; pressed, they say what they mean. */
function LabelKeys() {
  const labels = useLabels((s) => s.labels);
  return (
    <Hint text="Labels: what they mean" command="legend">
      <button
        type="button"
        onClick={() => togglePanel("legend")}
        className="flex min-h-6 items-center gap-1.5 max-[1180px]:hidden"
      >
        {labels.slice(0, 5).map(({ id, key }) => (
          <span key={id} className="flex items-center gap-0.5">
            {key && <Kbd>{key.toUpperCase()}</Kbd>}
            <LabelSign named={id} size={11} />
          </span>
        ))}
        <span className="sr-only">labels: what they mean</span>
      </button>
    </Hint>
  );
}

/** The keys for a mark; to be pressed here as well, for who has none. */
function MarkKeys({ screen }: { screen: Screen }) {
  return (
    <>
      {["keep", "leave", "reject"].map((id) => (
        <button
          key={id}
          type="button"
          onClick={(event) => runCommand(screen, id, event.timeStamp)}
          className="flex min-h-6 items-center gap-1.5 hover:text-ink"
        >
          <Kbd>{keyOf(id)}</Kbd> {id}
        </button>
      ))}
      <span className="flex items-center gap-1.5 max-[1100px]:hidden">
        <Kbd>{keyOf("unrate")}</Kbd>–<Kbd>{keyOf("rate-5")}</Kbd> stars
      </span>
      <LabelKeys />
    </>
  );
}

function LastAction() {
  const shootId = useShoot((s) => s.shootId);
  const lastAction = useShoot((s) => s.lastAction);
  const undo = useShoot((s) => s.undo);
  const tally = useShoot((s) => s.view?.tally.decisions);
  // Of marks on the way, the last is what undo acts on; it has no name yet.
  const waiting = useOutbox(() => isBusy(shootId));
  const isQuiet = useOutbox((s) => s.entries.length === 0) && tally;
  const counts =
    isQuiet &&
    `${figure(tally.keep)} kept · ${figure(tally.reject)} rejected · ${figure(tally.undecided)} undecided`;
  return (
    <>
      <output className="truncate" data-testid="last-action">
        {lastAction ?? (counts || "")}
      </output>
      {(undo || waiting) && (
        <Hint text={waiting ? "Undo the last mark" : `Undo: ${undo?.title}`} command="undo">
          <button type="button" onClick={undoMark} className="flex min-h-6 items-center gap-1.5">
            <span className="underline underline-offset-2">undo</span>
            <Kbd>{keyOf("undo")}</Kbd>
          </button>
        </Hint>
      )}
    </>
  );
}
