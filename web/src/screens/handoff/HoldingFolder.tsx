import type { Wish } from "../../panels/plans/usePlans";
import { Button } from "../../ui/controls";
import { bytes, count } from "../../ui/format";
import { Picked, usePicked } from "./Picked";
import { useHeld } from "./useHeld";
import { ageOf } from "./Ways";

interface Props {
  onMake: (wish: Wish) => void;
  onChange: () => void;
}

/** What waits in the holding folder: seen, brought back, or off the disk. */
export function HoldingFolder({ onMake, onChange }: Props) {
  const held = useHeld();
  const frames = held?.frames ?? [];
  const picked = usePicked(frames, onChange);
  const size = frames.filter(({ id }) => !picked.left.has(id)).reduce((sum, frame) => sum + frame.bytes, 0);
  return (
    <section>
      <h2 className="text-[15px] font-semibold">Holding folder</h2>
      {frames.length === 0 && (
        <p className="mt-1 text-ink2">Nothing waits in it. Rejects that are held back are seen here.</p>
      )}
      <ul className="mt-1 text-ink2">
        {held?.folders.map((folder) => (
          <li key={folder.path} className="break-all">
            {folder.path}: {count(folder.frames, "frame")}, {bytes(folder.bytes)} on disk,{" "}
            {folder.since ? ageOf(folder.since) : "cannot be reached: connect its disk"}
          </li>
        ))}
      </ul>
      {frames.length > 0 && (
        <>
          <Picked frames={frames} picked={picked} label="Held back" />
          <div className="mt-3 flex flex-wrap items-center gap-2">
            <Button
              look="main"
              disabled={!picked.ids.length}
              onClick={() => onMake({ kind: "bring-back", frames: picked.named })}
            >
              Bring back {picked.ids.length}
            </Button>
            <Button
              disabled={!picked.ids.length}
              onClick={() => onMake({ kind: "bin", frames: picked.named })}
            >
              Off the disk: {picked.ids.length} to the system's bin …
            </Button>
            <span className="text-ink2">{bytes(size)}</span>
          </div>
        </>
      )}
    </section>
  );
}
