import { memo, useEffect } from "react";
import { useCalm } from "../parts/useCalm";
import { shown } from "../perf";
import { activeFrame, toggleFilter, useShoot } from "../shoot/store";
import { sameButMarks } from "../shoot/unmarked";
import { Evidence } from "./Evidence";
import { useFaceSteps } from "./faceSteps";
import { Stage } from "./Stage";
import { StageLine } from "./StageLine";
import { useTellWindows } from "./secondWindow";
import { useStage } from "./stageStore";

/** The main screen: the frames of a group beside each other, and what is known of them. */
export function Bench({ evidence, bare }: { evidence: boolean; bare: boolean }) {
  const frame = useShoot(activeFrame);
  useEffect(() => {
    useStage.setState({ open: true });
    return () => useStage.setState({ open: false, chosen: null, aside: [], loupe: false });
  }, []);
  useEffect(() => {
    if (frame) shown("winnow:mark", frame.id);
  }, [frame]);
  useTellWindows();
  useFaceSteps(frame);
  if (!frame) return <NothingInView />;
  return (
    <>
      <main className={`flex min-w-0 flex-1 flex-col ${bare ? "" : "p-2 pb-0"}`}>
        <Stage frame={frame} bare={bare} />
        {!bare && <StageLine frame={frame} />}
      </main>
      {evidence && <Beside />}
    </>
  );
}

/** The evidence on the active frame, once the person stays with it. */
function Beside() {
  const frame = useCalm(useShoot, activeFrame);
  const wide = useStage((s) => s.table);
  return frame && <CalmEvidence frame={frame} wide={wide} />;
}

const CalmEvidence = memo(
  Evidence,
  (before, now) => before.wide === now.wide && sameButMarks(before.frame, now.frame),
);

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
