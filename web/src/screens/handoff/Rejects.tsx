import type { Wish } from "../../panels/plans/usePlans";
import { useShoot } from "../../shoot/store";
import { Button } from "../../ui/controls";
import { Picked, usePicked } from "./Picked";

interface Props {
  onMake: (wish: Wish) => void;
  onChange: () => void;
}

/** Rejects off the shoot, all or some: seen once more first. */
export function Rejects({ onMake, onChange }: Props) {
  const frames = useShoot((s) => s.frames);
  const rejects = [...frames.values()]
    .filter((frame) => frame.place === "shoot" && frame.decision === "reject")
    .sort((a, b) => a.position - b.position);
  const picked = usePicked(rejects, onChange);
  return (
    <section>
      <h2 className="text-[15px] font-semibold">Rejects off the shoot</h2>
      <p className="mt-1 max-w-prose text-ink2">
        They move to a holding folder beside the shoot. Nothing is deleted, and they can be brought back, all
        or some.
      </p>
      {rejects.length === 0 && <p className="mt-3">No frame is rejected.</p>}
      {rejects.length > 0 && <Picked frames={rejects} picked={picked} label="Rejects" />}
      <div className="mt-3">
        <Button
          look="main"
          disabled={!picked.ids.length}
          onClick={() => onMake({ kind: "hold-rejects", frames: picked.named })}
        >
          Plan to hold {picked.ids.length === 1 ? "it" : "them"} back
        </Button>
      </div>
    </section>
  );
}
