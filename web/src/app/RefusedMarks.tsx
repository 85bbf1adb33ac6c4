import { Link } from "wouter";
import { addressOf } from "../shoot/address";
import { labelOf } from "../shoot/labels";
import type { Entry } from "../shoot/outbox/entry";
import { sendAgain, settle } from "../shoot/outbox/outbox";
import { useShoot } from "../shoot/store";
import type { WordsChange } from "../shoot/waiting";
import { Button } from "../ui/controls";
import { count, shortName, timeOf } from "../ui/format";
import { DECISION_WORDS } from "../ui/marks";

/** Marks that the server would not have: which they are, why, and what can be done with them. */
export function RefusedMarks({ entries }: { entries: Entry[] }) {
  return (
    <>
      <p className="pb-2 text-ink2">Winnow did not take these. They are not in the shoot, and kept here.</p>
      {entries.length > 1 && (
        <div className="flex gap-2 pb-2">
          <Button onClick={() => void forEach(entries, sendAgain)}>Send all again</Button>
          <Button onClick={() => void forEach(entries, drop)}>Drop all</Button>
        </div>
      )}
      <ul className="space-y-2">
        {entries.map((entry) => (
          <li key={entry.id} className="border-t border-edge pt-2">
            <b className="font-semibold">{titleOf(entry)}</b>
            <p className="text-ink2">{entry.refused}</p>
            <div className="mt-1 flex items-center gap-2">
              <Button onClick={() => void sendAgain(entry)}>Send again</Button>
              <Button onClick={() => void drop(entry)}>Drop</Button>
              <Elsewhere entry={entry} />
            </div>
          </li>
        ))}
      </ul>
    </>
  );
}

/** It was never done, and will not be. */
function drop(entry: Entry) {
  return settle(entry, null);
}

/** One after another: they keep their order. */
async function forEach(entries: Entry[], act: (entry: Entry) => Promise<void>) {
  for (const entry of entries) await act(entry);
}

function Elsewhere({ entry }: { entry: Entry }) {
  const here = useShoot((s) => s.shootId);
  if (entry.shootId === here) return null;
  return <Link href={addressOf(entry.shootId, "wall")}>of another shoot</Link>;
}

function titleOf({ act, shootId, at }: Entry): string {
  const time = timeOf(at);
  if (act.kind !== "mark" && act.kind !== "words") return time;
  const { shootId: here, frames } = useShoot.getState();
  const [first, ...more] = act.frameIds;
  const name = shootId === here && first !== undefined ? frames.get(first)?.name : undefined;
  const what = more.length || !name ? count(act.frameIds.length, "frame") : shortName(name);
  if (act.kind === "words") return `${what}: ${saidIn(act.words)} (${time})`;
  const values = [
    act.decision && DECISION_WORDS[act.decision],
    act.rating !== undefined && count(act.rating, "star"),
    act.label !== undefined && (act.label ? `label ${labelOf(act.label)?.name ?? act.label}` : "no label"),
  ];
  return `${what}: ${values.filter(Boolean).join(", ")} (${time})`;
}

/** The words themselves: nothing that was typed is out of reach. */
function saidIn(words: WordsChange): string {
  const {
    captions = {},
    headline,
    copyright,
    creators = [],
    add_keywords = [],
    remove_keywords = [],
  } = words;
  const said = [...Object.values(captions), headline, copyright, ...(creators ?? []), ...add_keywords];
  return (
    [...said.filter(Boolean), ...remove_keywords.map((word) => `not ${word}`)].join(", ") || "words taken off"
  );
}
