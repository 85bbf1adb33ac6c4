import { Switch } from "radix-ui";
import { type Screen, shout } from "../keys/command";
import { keyOf } from "../keys/commands";
import { Hint, Kbd } from "../parts/controls";
import { count, shortName } from "../parts/format";
import { undoMark } from "./marking";
import { activeFrame, setGoOn, useShoot } from "./store";

/** What the next key acts on, the keys for it, the last action with its undo. */
export function ScopeLine({ screen }: { screen: Screen }) {
  const active = useShoot(activeFrame);
  const selected = useShoot((s) => s.selection.size);
  const goOn = useShoot((s) => s.goOn);
  const lastAction = useShoot((s) => s.lastAction);
  const undo = useShoot((s) => s.undo);
  const tally = useShoot((s) => s.view?.tally.decisions);
  const scope = selected
    ? count(selected, "selected frame")
    : active
      ? `frame ${shortName(active.name)}`
      : "nothing";
  return (
    <footer className="flex h-9 shrink-0 items-center gap-4 overflow-hidden border-t border-edge bg-wall px-3.5 whitespace-nowrap text-ink2">
      <output aria-live="off" data-testid="scope">
        <span className="text-ink">Next key acts on </span>
        <span
          className={`ml-0.5 rounded border px-2 py-0.5 text-ink ${selected > 1 ? "border-dashed border-straw bg-warm" : "border-straw"}`}
        >
          {scope}
        </span>
      </output>
      <span className="flex items-center gap-1.5">
        <Kbd>{keyOf("accept")}</Kbd> accept
      </span>
      <span className="flex items-center gap-1.5">
        <Kbd>{keyOf("leave")}</Kbd> leave
      </span>
      <span className="flex items-center gap-1.5">
        <Kbd>{keyOf("discard")}</Kbd> discard
      </span>
      <span className="flex items-center gap-1.5 max-[1100px]:hidden">
        <Kbd>0</Kbd>–<Kbd>5</Kbd> stars
      </span>
      <span className="flex items-center gap-1.5 max-[1180px]:hidden">
        <Kbd>↑</Kbd>
        <Kbd>↓</Kbd> group
      </span>
      <Hint text="After a mark on one frame, the next one comes by itself" command="go-on">
        <span className="flex items-center gap-1.5">
          <Switch.Root
            checked={goOn}
            onCheckedChange={setGoOn}
            aria-label="Go on by itself after a mark"
            className="flex h-4 w-7 items-center rounded-full border border-ink3 bg-room data-[state=checked]:border-straw data-[state=checked]:bg-warm"
          >
            <Switch.Thumb className="ml-0.5 block size-2.5 rounded-full bg-ink2 data-[state=checked]:ml-3.5 data-[state=checked]:bg-straw" />
          </Switch.Root>
          go on
        </span>
      </Hint>
      <span className="flex-1" />
      <output className="truncate" data-testid="last-action">
        {lastAction ??
          (tally ? `${tally.pick} kept · ${tally.reject} rejected · ${tally.undecided} undecided` : "")}
      </output>
      {undo && (
        <Hint text={`Undo: ${undo.title}`} command="undo">
          <button type="button" onClick={undoMark} className="flex min-h-6 items-center gap-1.5">
            <span className="underline underline-offset-2">undo</span>
            <Kbd>{keyOf("undo")}</Kbd>
          </button>
        </Hint>
      )}
      <Hint text="The keys in force" command="keys">
        <button
          type="button"
          aria-label="The keys in force"
          onClick={() => shout("keys")}
          className="min-h-6"
        >
          <Kbd>?</Kbd>
        </button>
      </Hint>
      <span className="flex items-center gap-1.5 max-[1180px]:hidden">
        <Kbd>Enter</Kbd> {screen === "wall" ? "bench" : "wall"}
      </span>
    </footer>
  );
}
