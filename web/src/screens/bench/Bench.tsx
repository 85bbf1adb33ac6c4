import { memo, useEffect } from "react";
import type { Frame } from "../../api/client";
import { Evidence } from "../../panels/evidence/Evidence";
import { NothingInView } from "../../panels/filter/NothingInView";
import { LeftStage } from "../../panels/passes/LeftStage";
import { PassEnd } from "../../panels/passes/PassEnd";
import { Together } from "../../panels/passes/Together";
import { usePanels } from "../../panels/shown";
import { useFollowing } from "../../shoot/following";
import { activeFrame, useShoot } from "../../shoot/store";
import { sameButMarks, useUnmarked } from "../../shoot/unmarked";
import { useWalk } from "../../shoot/walk/store";
import { shown } from "../../ui/timing";
import { useCalm } from "../../ui/useCalm";
import { RunThrough } from "./RunThrough";
import { Stage } from "./Stage";
import { StageLine } from "./StageLine";
import { useStage } from "./stageStore";
import { openStage } from "./staging";
import { useWalkStage } from "./useWalkStage";
import { useTellWindows } from "./windows";

/** The main screen: the frames of a group beside each other, and what is known of them. */
export function Bench() {
  const frame = useShoot(activeFrame);
  const { evidence, bare } = usePanels();
  useEffect(openStage, []);
  useEffect(() => {
    if (frame) shown("winnow:mark", frame.id);
  }, [frame]);
  useTellWindows();
  useWalkStage();
  const inPass = useWalk((s) => s.walk !== null);
  const ended = useWalk((s) => s.ended);
  const together = useWalk((s) => s.bulk !== null);
  const aside = useStage((s) => s.aside);
  if (ended) return <PassEnd />;
  if (together) return <Together />;
  if (!frame) return <NothingInView />;
  return (
    <div className="flex min-w-0 flex-1 max-[900px]:flex-col">
      <main className={`flex min-h-0 min-w-0 flex-1 flex-col ${bare ? "" : "p-2 pb-0"}`}>
        <Stage frame={frame} bare={bare} />
        <RunThrough />
        {!bare && !inPass && <Under frame={frame} />}
      </main>
      {!bare && <LeftStage aside={aside} />}
      {evidence && !bare && <Beside />}
    </div>
  );
}

/** The line under the stage, once the pictures are drawn. */
function Under({ frame }: { frame: Frame }) {
  return <StageLine frame={useUnmarked(useFollowing(frame))} />;
}

/** The evidence on the active frame, once the person stays with it. */
function Beside() {
  const frame = useCalm(useShoot, activeFrame);
  const wide = useStage((s) => s.wideTable);
  return frame && <CalmEvidence frame={frame} wide={wide} />;
}

const CalmEvidence = memo(
  Evidence,
  (before, now) => before.wide === now.wide && sameButMarks(before.frame, now.frame),
);
