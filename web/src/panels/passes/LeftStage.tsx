import { smallUrl } from "../../api/client";
import { keyOf, runCommand } from "../../keys/inForce";
import { useShoot } from "../../shoot/store";
import { goesByFrames, useWalk } from "../../shoot/walk/store";
import { Kbd } from "../../ui/controls";
import { shortName } from "../../ui/format";
import { Thumbnail } from "../../ui/Thumbnail";

/** So many of them are shown. */
const SHOWN = 6;

/** What left the stage of the group that is compared, and the way back for it. aside: the last one last. */
export function LeftStage({ aside }: { aside: number[] }) {
  const pass = useWalk((s) => s.walk?.definition);
  const frames = useShoot((s) => s.frames);
  const group = useShoot((s) => s.frames.get(s.active ?? -1)?.group);
  if (!pass || goesByFrames(pass)) return null;
  const left = aside.flatMap((id) => frames.get(id) ?? []).filter((frame) => frame.group === group);
  return (
    <aside aria-label="Left the stage" className="flex w-[76px] shrink-0 flex-col gap-2 pt-2 pr-2 text-ink2">
      {left.length > 0 && <span>left</span>}
      {left.slice(-SHOWN).map((frame) => (
        <Thumbnail
          key={frame.id}
          src={smallUrl(frame)}
          alt={`${shortName(frame.name)}, ${frame.decision === "reject" ? "rejected" : "undecided"}`}
          className={`max-h-20 w-full object-contain opacity-45 ${frame.decision === "reject" ? "grayscale" : ""}`}
        />
      ))}
      {left.length > 0 && (
        <button
          type="button"
          onClick={(event) => runCommand("bench", "put-back", event.timeStamp)}
          className="flex min-h-6 items-center gap-1.5"
        >
          <Kbd>{keyOf("put-back")}</Kbd> back
        </button>
      )}
    </aside>
  );
}
