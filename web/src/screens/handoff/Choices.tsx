import type { Wish } from "../../panels/plans/usePlans";
import { useOutbox, waits } from "../../shoot/outbox/outbox";
import { useShoot } from "../../shoot/store";
import { Button } from "../../ui/controls";
import { count } from "../../ui/format";
import { Card } from "./Card";
import { FramesCard } from "./FramesCard";
import { ListCard } from "./ListCard";

interface Props {
  onMake: (wish: Wish) => void;
  /** A plan on screen that says something else than the options beside it would be applied by mistake. */
  onChange: () => void;
}

/** What can be handed on, held back or written. */
export function Choices({ onMake, onChange }: Props) {
  const view = useShoot((s) => s.view);
  const waiting = useOutbox((s) => s.entries.filter(waits).length);
  const rejects = view?.tally.decisions.reject ?? 0;
  const held = view?.held ?? 0;
  return (
    <div className="w-[430px] shrink-0 space-y-4 overflow-y-auto border-r border-edge p-5">
      {waiting > 0 && (
        <p role="status" className="border-l-2 border-straw pl-3">
          {count(waiting, "mark")} {waiting === 1 ? "is" : "are"} on the way. A plan can be made when they
          have arrived.
        </p>
      )}
      <fieldset disabled={waiting > 0} className="space-y-4">
        <FramesCard onMake={onMake} onChange={onChange} />
        <Card title="Rejects off the shoot" counted={count(rejects, "reject")}>
          <p className="text-ink2">
            They move to a holding folder beside the shoot. Nothing is deleted, and they can be brought back.
          </p>
          <div className="mt-3 flex gap-2">
            <Button disabled={!rejects} onClick={() => onMake({ kind: "hold-rejects" })}>
              Plan to hold them back
            </Button>
            <Button disabled={!held} onClick={() => onMake({ kind: "bring-back" })}>
              Bring back {held || ""}
            </Button>
          </div>
        </Card>
        <Card title="Marks into sidecars" counted="">
          <p className="text-ink2">
            XMP files beside the originals, for the editing program to read. What others wrote in them stays;
            the originals are not touched.
          </p>
          <div className="mt-3">
            <Button disabled={!view?.total} onClick={() => onMake({ kind: "write-sidecars" })}>
              Plan the sidecars
            </Button>
          </div>
        </Card>
        <ListCard />
      </fieldset>
    </div>
  );
}
