import { Popover } from "radix-ui";
import { useConnection } from "../api/connection";
import type { Entry } from "../shoot/outbox/entry";
import { useOutbox, waits } from "../shoot/outbox/outbox";
import { count } from "../ui/format";
import { useRested } from "../ui/useRested";
import { RefusedMarks } from "./RefusedMarks";

/** A mark that is under way for less than this is not worth a word, ms. */
const SOON_MS = 900;

/** How many marks wait for the server, and those that it would not have. */
export function WaitingMarks() {
  const entries = useOutbox((s) => s.entries);
  const lasting = useOutbox((s) => s.lasting);
  const waiting = entries.filter(waits).length;
  const refused = entries.filter((entry) => entry.refused);
  const long = useIsLong(waiting > 0);
  return (
    <>
      {long && (
        <output data-testid="waiting" className="text-ink">
          {count(waiting, "mark")} {waiting === 1 ? "waits" : "wait"} for Winnow
          {!lasting && ", on this page only: leave it open"}
        </output>
      )}
      {refused.length > 0 && <Refused entries={refused} />}
    </>
  );
}

/** The same on pages without a line at the bottom, while there is something to say. */
export function WaitingLine() {
  const any = useOutbox((s) => s.entries.length > 0);
  if (!any) return null;
  return (
    <footer className="flex h-9 shrink-0 items-center gap-4 border-t border-edge bg-wall px-3.5 text-ink2 empty:hidden">
      <WaitingMarks />
    </footer>
  );
}

/** Whether something waits for longer than marks do when all is well. */
function useIsLong(waiting: boolean): boolean {
  const lost = useConnection((s) => s.lost);
  const rested = useRested(waiting, SOON_MS);
  return waiting && (lost || rested === true);
}

function Refused({ entries }: { entries: Entry[] }) {
  return (
    <Popover.Root>
      <Popover.Trigger className="min-h-6 rounded border border-straw px-2 text-ink" data-testid="refused">
        {count(entries.length, "mark")} refused …
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          side="top"
          sideOffset={8}
          collisionPadding={8}
          aria-label="Marks that were refused"
          className="z-40 max-h-[60vh] w-[430px] overflow-y-auto rounded-md border border-edge bg-wall p-3 shadow-xl"
        >
          <RefusedMarks entries={entries} />
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
