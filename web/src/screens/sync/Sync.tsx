import { useState } from "react";
import { useOutbox, waits } from "../../shoot/outbox/outbox";
import { useShoot } from "../../shoot/store";
import { Button, Chip } from "../../ui/controls";
import { count } from "../../ui/format";
import { ServerSwitch } from "../../ui/ServerSwitch";
import { BothSides } from "./BothSides";
import { FIELD_WORDS, keyOfRow, type Rule, type SyncRow, settledBy, type Take } from "./rules";
import { Sides } from "./Sides";
import { useSync } from "./useSync";

/** Marks here and on disk: what differs, seen before anything is taken over or written. */
export function Sync() {
  const selection = useShoot((s) => s.selection);
  const waiting = useOutbox((s) => s.entries.filter(waits).length);
  const [selected, setSelected] = useState(false);
  const [only, setOnly] = useState<SyncRow["field"] | null>(null);
  const frames = selected && selection.size > 1 ? [...selection] : [];
  const { view, done, running, error, again, settle, takeBack } = useSync(frames);
  const [takes, setTakes] = useState(new Map<string, Take>());
  const [incoming, setIncoming] = useState(true);
  const [outgoing, setOutgoing] = useState(true);
  const rows = view?.rows ?? [];
  const of = (side: SyncRow["side"]) => rows.filter((row) => row.side === side);
  const [both, out, comesIn] = [of("both"), of("out"), of("in")];
  const fields = [...new Set(rows.map(({ field }) => field))];
  const seen = (some: SyncRow[]) => some.filter(({ field }) => only === null || field === only);
  const take = (some: SyncRow[], rule: Rule) => setTakes(new Map([...takes, ...settledBy(some, rule)]));
  const chosen = both.filter((row) => (takes.get(keyOfRow(row)) ?? "later") !== "later").length;
  const marks = chosen + (incoming ? comesIn.length : 0) + (outgoing ? out.length : 0);
  const start = (wanted: { incoming: boolean; outgoing: boolean; takes: Map<string, Take> }) => {
    settle(wanted);
    setTakes(new Map());
  };
  return (
    <main className="min-w-0 flex-1 overflow-y-auto p-4">
      <header className="flex flex-wrap items-center gap-x-3 gap-y-2">
        <h2 className="text-base font-semibold">Marks here and on disk</h2>
        {view && (
          <p className="text-ink2" data-testid="sync-counts">
            {both.length} differ on both sides · {out.length} go out · {comesIn.length} come in ·{" "}
            {count(view.agree, "frame")} {view.agree === 1 ? "agrees" : "agree"}
          </p>
        )}
        <span className="flex-1" />
        {selection.size > 1 && (
          <Chip on={selected} onClick={() => setSelected(!selected)}>
            only the {count(selection.size, "selected frame")}
          </Chip>
        )}
        <Button onClick={() => void again()}>Look again</Button>
      </header>
      {waiting > 0 && (
        <p role="status" className="mt-3 border-l-2 border-straw pl-3">
          {count(waiting, "mark")} {waiting === 1 ? "is" : "are"} on the way: what is shown here is without{" "}
          {waiting === 1 ? "it" : "them"}.
        </p>
      )}
      {error && (
        <p role="alert" className="mt-3 border-l-2 border-straw pl-3">
          {error.message}
        </p>
      )}
      {!view && !error && <p className="mt-3 text-ink2">Reading what stands on disk …</p>}
      {fields.length > 1 && (
        <fieldset aria-label="Only one property" className="mt-3 flex flex-wrap gap-1.5">
          <Chip on={only === null} onClick={() => setOnly(null)}>
            every property
          </Chip>
          {fields.map((field) => (
            <Chip key={field} on={field === only} onClick={() => setOnly(field)}>
              {FIELD_WORDS[field]} {rows.filter((row) => row.field === field).length}
            </Chip>
          ))}
        </fieldset>
      )}
      <BothSides rows={seen(both)} takes={takes} onTake={take} />
      <Sides title="Go out" why="changed here only" rows={seen(out)} on={outgoing} onSwitch={setOutgoing} />
      <Sides
        title="Come in"
        why="changed on disk only"
        rows={seen(comesIn)}
        on={incoming}
        onSwitch={setIncoming}
      />
      {view && !rows.length && (
        <p className="mt-4">Both sides say the same of {count(view.frames, "frame")}.</p>
      )}
      {rows.length > 0 && (
        <div className="mt-5 flex flex-wrap items-center gap-2">
          <Button
            look="main"
            disabled={!marks || waiting > 0 || running !== null}
            onClick={() => start({ takes, incoming, outgoing })}
          >
            Settle {count(marks, "mark")}
          </Button>
          {comesIn.length > 0 && marks > comesIn.length && (
            <Button
              disabled={waiting > 0 || running !== null}
              onClick={() => start({ takes: new Map(), incoming: true, outgoing: false })}
            >
              Only what comes in
            </Button>
          )}
          <span className="text-ink2">
            {only && "all properties, not only those shown · "}one step in the history; can be taken back, on
            disk too
          </span>
        </div>
      )}
      {running !== null && (
        <p role="status" className="mt-3 text-ink2">
          Sidecars are being written and verified …
        </p>
      )}
      {done && running === null && (
        <p role="status" className="mt-3 flex flex-wrap items-center gap-2 border-l-2 border-straw pl-3">
          Settled: {count(done.taken, "mark")} came in, {count(done.out, "file")} written.
          {done.changed > 0 && ` ${count(done.changed, "mark")} changed meanwhile and waits for you again.`}
          {done.error && ` Nothing could be written: ${done.error}`}
          {(done.batch !== null || done.plan !== null) && (
            <Button onClick={() => takeBack(done)}>Take it back</Button>
          )}
        </p>
      )}
      {view?.notes.map((note) => (
        <p key={note} className="mt-2 text-ink2">
          {note}
        </p>
      ))}
      <div className="mt-6 w-fit border-t border-edge pt-3">
        <ServerSwitch of="takes_in">
          When a shoot is opened, what only another program changed comes in by itself. While it is open, it
          waits here.
        </ServerSwitch>
      </div>
    </main>
  );
}
