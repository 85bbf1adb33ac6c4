import { useState } from "react";
import { api, unwrap } from "../../api/client";
import { StillMissing } from "../../panels/filter/StillMissing";
import { FolderChooser } from "../../panels/folders/FolderChooser";
import { Naming, type NamingWish } from "../../panels/plans/Naming";
import type { Wish } from "../../panels/plans/usePlans";
import { filterInForce } from "../../shoot/filterInForce";
import { useShoot } from "../../shoot/store";
import { Button, Chip } from "../../ui/controls";
import { count } from "../../ui/format";
import { Card } from "./Card";

type Into = NonNullable<Wish["into"]>;
type Only = Wish["only"];

const INTO: { into: Into; title: string }[] = [
  { into: "nothing", title: "all in one" },
  { into: "label", title: "for each label" },
  { into: "rating", title: "rating" },
  { into: "day", title: "day" },
  { into: "scene", title: "scene" },
  { into: "camera", title: "camera" },
];
const ONLY: { only: Only; title: string }[] = [
  { only: null, title: "RAW and JPEG" },
  { only: "raw", title: "RAW only" },
  { only: "picture", title: "JPEG only" },
];

interface Props {
  onMake: (wish: Wish) => void;
  /** A plan on screen that says something else than the options beside it would be applied by mistake. */
  onChange: () => void;
}

/** Keepers, or what the filter shows, to a folder: which files, and sorted into which folders. */
export function FramesCard({ onMake, onChange }: Props) {
  const shootId = useShoot((s) => s.shootId);
  const revision = useShoot((s) => s.revision);
  const keepers = useShoot((s) => s.view?.tally.decisions.keep ?? 0);
  const shown = useShoot((s) => s.visible.length);
  const filter = useShoot((s) => filterInForce(s).show);
  const [filtered, setFiltered] = useState(false);
  const [target, setTarget] = useState("");
  const [withMarks, setWithMarks] = useState(true);
  const [keepFolders, setKeepFolders] = useState(false);
  const [into, setInto] = useState<Into>("nothing");
  const [only, setOnly] = useState<Only>(null);
  const [naming, setNaming] = useState<NamingWish | null>(null);
  const changing = <T,>(set: (value: T) => void) => {
    return (value: T) => {
      set(value);
      onChange();
    };
  };
  const byFilter = filtered && filter !== "";
  const frames = byFilter ? shown : keepers;
  const plan = (kind: Wish["kind"]) =>
    onMake({
      kind,
      target,
      with_marks: withMarks,
      keep_folders: keepFolders,
      show: byFilter ? filter : "",
      into,
      only,
      naming,
    });
  return (
    <Card title="Frames to a folder" counted={count(frames, byFilter ? "frame" : "keeper")}>
      {filter && (
        <div className="mb-2 flex flex-wrap gap-1.5">
          <Chip on={!byFilter} onClick={() => changing(setFiltered)(false)}>
            keepers
          </Chip>
          <Chip on={byFilter} onClick={() => changing(setFiltered)(true)} className="max-w-72">
            <span className="truncate">the filter: {filter}</span>
          </Chip>
        </div>
      )}
      {!byFilter && keepers > 0 && <StillMissing />}
      <div className="flex items-center gap-2">
        <span
          className={`min-w-0 flex-1 truncate ${target ? "" : "text-ink2"}`}
          title={target}
          data-testid="target"
        >
          {target || "no folder chosen yet"}
        </span>
        <FolderChooser
          title="Where the frames go"
          verb="Choose"
          mayBeNew
          trigger={<Button>Choose a folder …</Button>}
          onChoose={async (path) => {
            changing(setTarget)(path);
            return undefined;
          }}
        />
      </div>
      <fieldset aria-label="A folder" className="mt-3 flex flex-wrap items-center gap-1.5">
        {INTO.map((one) => (
          <Chip key={one.into} on={one.into === into} onClick={() => changing(setInto)(one.into)}>
            {one.title}
          </Chip>
        ))}
      </fieldset>
      <fieldset aria-label="Files" className="mt-2 flex flex-wrap gap-1.5">
        {ONLY.map((one) => (
          <Chip key={one.title} on={one.only === only} onClick={() => changing(setOnly)(one.only)}>
            {one.title}
          </Chip>
        ))}
      </fieldset>
      <Naming
        naming={naming}
        onChange={changing(setNaming)}
        of={[shootId, revision, byFilter ? filter : "", into]}
        ask={(asked) =>
          api
            .POST("/api/shoots/{shoot_id}/names", {
              params: { path: { shoot_id: shootId } },
              body: { show: byFilter ? filter : "", into, naming: asked },
            })
            .then(unwrap)
        }
      />
      <div className="mt-2 flex flex-wrap gap-1.5">
        <Chip on={withMarks} onClick={() => changing(setWithMarks)(!withMarks)}>
          sidecars with the marks go along
        </Chip>
        <Chip on={keepFolders} onClick={() => changing(setKeepFolders)(!keepFolders)}>
          keep sub-folders
        </Chip>
      </div>
      <div className="mt-3 flex gap-2">
        <Button disabled={!frames || !target} onClick={() => plan("copy-keepers")}>
          Plan a copy
        </Button>
        <Button
          disabled={!frames || !target || only !== null}
          title={only === null ? undefined : "A move takes all files of a frame along"}
          onClick={() => plan("move-keepers")}
        >
          Plan a move
        </Button>
      </div>
    </Card>
  );
}
