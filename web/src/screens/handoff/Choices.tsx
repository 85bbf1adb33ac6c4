import { type ReactNode, useState } from "react";
import { StillMissing } from "../../panels/filter/StillMissing";
import { FolderChooser } from "../../panels/folders/FolderChooser";
import { useOutbox, waits } from "../../shoot/outbox/outbox";
import { useShoot } from "../../shoot/store";
import { Button, Chip } from "../../ui/controls";
import { count } from "../../ui/format";
import type { Wish } from "./usePlans";

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
        <Keepers onMake={onMake} onChange={onChange} />
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
      </fieldset>
    </div>
  );
}

function Keepers({ onMake, onChange }: Props) {
  const keepers = useShoot((s) => s.view?.tally.decisions.keep ?? 0);
  const [target, setTarget] = useState("");
  const [withMarks, setWithMarks] = useState(true);
  const [keepFolders, setKeepFolders] = useState(false);
  const changing = <T,>(set: (value: T) => void) => {
    return (value: T) => {
      set(value);
      onChange();
    };
  };
  const plan = (kind: Wish["kind"]) =>
    onMake({ kind, target, with_marks: withMarks, keep_folders: keepFolders });
  return (
    <Card title="Keepers to a folder" counted={count(keepers, "keeper")}>
      {keepers > 0 && <StillMissing />}
      <div className="flex items-center gap-2">
        <span
          className={`min-w-0 flex-1 truncate ${target ? "" : "text-ink2"}`}
          title={target}
          data-testid="target"
        >
          {target || "no folder chosen yet"}
        </span>
        <FolderChooser
          title="Where the keepers go"
          verb="Choose"
          mayBeNew
          trigger={<Button>Choose a folder …</Button>}
          onChoose={async (path) => {
            changing(setTarget)(path);
            return undefined;
          }}
        />
      </div>
      <div className="mt-3 flex flex-wrap gap-2">
        <Chip on={withMarks} onClick={() => changing(setWithMarks)(!withMarks)}>
          sidecars with the marks go along
        </Chip>
        <Chip on={keepFolders} onClick={() => changing(setKeepFolders)(!keepFolders)}>
          keep sub-folders
        </Chip>
      </div>
      <div className="mt-3 flex gap-2">
        <Button disabled={!keepers || !target} onClick={() => plan("copy-keepers")}>
          Plan a copy
        </Button>
        <Button disabled={!keepers || !target} onClick={() => plan("move-keepers")}>
          Plan a move
        </Button>
      </div>
    </Card>
  );
}

function Card({ title, counted, children }: { title: string; counted: string; children: ReactNode }) {
  return (
    <section className="rounded-lg border border-edge bg-wall p-4">
      <h2 className="mb-2 flex justify-between text-[15px] font-semibold">
        {title} <span className="text-[13px] font-normal text-ink2">{counted}</span>
      </h2>
      {children}
    </section>
  );
}
