import { useState } from "react";
import { api, unwrap } from "../../api/client";
import type { components } from "../../api/schema";
import { FolderChooser } from "../../panels/folders/FolderChooser";
import { Naming, type NamingWish } from "../../panels/plans/Naming";
import { Button, Chip } from "../../ui/controls";
import { bytes, count, dayOf } from "../../ui/format";

type CardView = components["schemas"]["CardView"];

export interface ImportWish {
  target: string;
  second: string | null;
  keep_folders: boolean;
  into: "nothing" | "day" | "camera";
  naming: NamingWish | null;
}

const FOLDERS: { title: string; keep: boolean; into: ImportWish["into"] }[] = [
  { title: "as on the card", keep: true, into: "nothing" },
  { title: "one for each day", keep: false, into: "day" },
  { title: "each camera", keep: false, into: "camera" },
  { title: "all in one", keep: false, into: "nothing" },
];

interface Props {
  card: CardView;
  busy: boolean;
  onPlan: (wish: ImportWish) => void;
  /** A plan on screen that says something else than the options beside it would be applied by mistake. */
  onChange: () => void;
  onLook: () => void;
}

/** What is on a card, and where it is to go. */
export function WhereTo({ card, busy, onPlan, onChange, onLook }: Props) {
  const cut = card.proposed.lastIndexOf("/");
  const [place, setPlace] = useState(card.proposed.slice(0, cut) || "/");
  const [called, setCalled] = useState(card.proposed.slice(cut + 1));
  const [second, setSecond] = useState<string | null>(null);
  const [folders, setFolders] = useState(FOLDERS[0]);
  const [naming, setNaming] = useState<NamingWish | null>(null);
  const changing = <T,>(set: (value: T) => void) => {
    return (value: T) => {
      set(value);
      onChange();
    };
  };
  const name = called.trim().replaceAll("/", "-");
  const target = `${place.replace(/\/$/, "")}/${name}`;
  const into = folders?.into ?? "nothing";
  return (
    <div className="w-[430px] shrink-0 space-y-4 overflow-y-auto border-r border-edge p-5 max-[900px]:w-full max-[900px]:border-r-0">
      <section>
        <h2 className="text-[15px] font-semibold">{card.name}</h2>
        <p className="text-ink2">
          {count(card.frames, "frame")}, {count(card.files, "file")}, {bytes(card.bytes)}
          {card.latest && ` · last written ${dayOf(card.latest)}`}
        </p>
        <p data-testid="new-here">
          {card.new === 0
            ? "All of it seems to be here already."
            : `${count(card.new, "frame")} not here yet.`}
        </p>
      </section>
      <section className="rounded-lg border border-edge bg-wall p-4">
        <h3 className="mb-2 font-semibold">Where it goes</h3>
        <label className="flex items-center gap-2">
          <span className="w-20 shrink-0 text-ink2">Called</span>
          <input
            value={called}
            maxLength={120}
            onChange={(event) => changing(setCalled)(event.target.value)}
            className="h-7 min-w-0 flex-1 rounded border border-line bg-pit px-2"
          />
        </label>
        <Place title="In" path={place} onChoose={changing(setPlace)} label="Choose a folder …" />
        <Place
          title="And in"
          path={second ?? "one copy only"}
          onChoose={changing(setSecond)}
          label={second ? "Another …" : "A second copy …"}
        />
        {second && (
          <button
            type="button"
            className="ml-22 text-xs text-ink2 underline"
            onClick={() => changing(setSecond)(null)}
          >
            one copy only
          </button>
        )}
        <fieldset aria-label="Folders" className="mt-3 flex flex-wrap items-center gap-1.5">
          <span className="text-xs text-ink2">folders</span>
          {FOLDERS.map((one) => (
            <Chip key={one.title} on={one === folders} onClick={() => changing(setFolders)(one)}>
              {one.title}
            </Chip>
          ))}
        </fieldset>
        <Naming
          arriving
          naming={naming}
          onChange={changing(setNaming)}
          of={["card", card.path, into, name]}
          ask={(asked) =>
            api
              .POST("/api/imports/names", { body: { source: card.path, target, into, naming: asked } })
              .then(unwrap)
          }
        />
        <div className="mt-3">
          <Button
            look="main"
            disabled={!name || busy || card.frames === 0}
            onClick={() =>
              onPlan({
                target,
                second: second ? `${second.replace(/\/$/, "")}/${name}` : null,
                keep_folders: folders?.keep ?? true,
                into,
                naming,
              })
            }
          >
            {busy ? "Looking at the files …" : "Plan the copy"}
          </Button>
        </div>
      </section>
      <section>
        <p className="text-ink2">
          Or look through it where it is: the card stays as it is, and marks come along when it is copied.
        </p>
        <Button className="mt-2" disabled={card.frames === 0} onClick={onLook}>
          Look through the card
        </Button>
      </section>
    </div>
  );
}

interface PlaceProps {
  title: string;
  path: string;
  label: string;
  onChoose: (path: string) => void;
}

function Place({ title, path, label, onChoose }: PlaceProps) {
  return (
    <div className="mt-2 flex items-center gap-2">
      <span className="w-20 shrink-0 text-ink2">{title}</span>
      <span className="min-w-0 flex-1 truncate" title={path}>
        {path}
      </span>
      <FolderChooser
        title="Where the copies go"
        verb="Choose"
        mayBeNew
        trigger={<Button>{label}</Button>}
        onChoose={async (chosen) => {
          onChoose(chosen);
          return undefined;
        }}
      />
    </div>
  );
}
