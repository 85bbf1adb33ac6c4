import { useCallback, useEffect, useState } from "react";
import type { Frame } from "../api/client";
import { useShout } from "../keys/useKeys";
import { clock, shortName } from "../parts/format";
import { DECISION_WORDS, Grain, Stars } from "../parts/marks";
import { Warnings } from "../parts/warnings";
import { shown } from "../perf";
import { toggleFilter, useShoot } from "../shoot/store";
import { Evidence } from "./Evidence";
import { Stage } from "./Stage";
import { useEvidence } from "./useEvidence";

/** The main screen: the stage with one frame, and what is known of it. */
export function Bench({ evidence }: { evidence: boolean }) {
  const frame = useShoot((s) => (s.active === null ? undefined : s.frames.get(s.active)));
  const place = useShoot((s) => (s.active === null ? 0 : (s.places.get(s.active) ?? 0) + 1));
  const count = useShoot((s) => s.visible.length);
  useEffect(() => {
    if (frame) shown("winnow:mark", frame.id);
  }, [frame]);
  const [map, setMap] = useState(false);
  useShout(
    "blur-map",
    useCallback(() => setMap((on) => !on), []),
  );
  if (!frame) return <NothingInView />;
  return (
    <>
      <main className="flex min-w-0 flex-1 flex-col p-3 pb-0">
        {map ? <StageWithMap frame={frame} /> : <Stage frame={frame} map={null} />}
        <div className="flex h-8 shrink-0 items-center gap-3 text-ink2" data-testid="strip">
          {frame.decision === "pick" && <Grain size={16} />}
          <span className={frame.decision === "reject" ? "text-ink line-through" : "text-ink"}>
            {shortName(frame.name)}
          </span>
          <span data-testid="decision">{DECISION_WORDS[frame.decision]}</span>
          <Stars rating={frame.rating} ghost />
          {frame.label && <span className="rounded border border-ink3 px-1.5">{frame.label}</span>}
          <Warnings frame={frame} reachable />
          {frame.note && <span className="truncate text-ink">{frame.note}</span>}
          <span className="flex-1" />
          <span className="whitespace-nowrap">
            {clock(frame.captured_at)} · {place} of {count}
          </span>
        </div>
      </main>
      {evidence && <Evidence frame={frame} />}
    </>
  );
}

function StageWithMap({ frame }: { frame: Frame }) {
  const { data } = useEvidence(frame);
  return <Stage frame={frame} map={data ?? null} />;
}

export function NothingInView() {
  const total = useShoot((s) => s.view?.total ?? 0);
  return (
    <main className="grid flex-1 place-items-center text-center text-ink2">
      {total ? (
        <div>
          <p className="pb-2 text-ink">No frame passes the filter.</p>
          <button type="button" className="underline" onClick={toggleFilter}>
            Show all {total}
          </button>
        </div>
      ) : (
        <p>
          There are no pictures in this folder.
          <br />
          Copy some into it, or open another from the list of shoots.
        </p>
      )}
    </main>
  );
}
