import { useState } from "react";
import { FolderChooser } from "../../panels/folders/FolderChooser";
import { Naming, type NamingWish } from "../../panels/plans/Naming";
import type { Wish } from "../../panels/plans/usePlans";
import { Button, Chip } from "../../ui/controls";
import { count } from "../../ui/format";
import { AsJpegs, type SizedWish } from "./AsJpegs";
import type { Scope } from "./scope";
import { TargetLine } from "./TargetLine";
import { useNames } from "./useNames";

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
  scope: Scope;
  onMake: (wish: Wish) => void;
  /** A plan on screen that says something else than the options beside it would be applied by mistake. */
  onChange: () => void;
}

/** Frames to a folder, or to two: which files, sorted into which folders, under which names. */
export function ToFolder({ scope, onMake, onChange }: Props) {
  const [target, setTarget] = useState("");
  const [second, setSecond] = useState("");
  const [withMarks, setWithMarks] = useState(true);
  const [keepFolders, setKeepFolders] = useState(false);
  const [into, setInto] = useState<Into>("nothing");
  const [only, setOnly] = useState<Only>(null);
  const [sized, setSized] = useState<SizedWish | null>(null);
  const [naming, setNaming] = useState<NamingWish | null>(null);
  const names = useNames(scope, into);
  const changing = <T,>(set: (value: T) => void) => {
    return (value: T) => {
      set(value);
      onChange();
    };
  };
  const plan = (kind: Wish["kind"]) =>
    onMake({
      kind,
      target,
      second: second || null,
      with_marks: withMarks,
      keep_folders: keepFolders,
      ...scope.wish,
      into,
      only,
      naming,
      sized,
    });
  return (
    <section>
      <h2 className="mb-2 text-[15px] font-semibold">{count(scope.frames, scope.noun)} to a folder</h2>
      <TargetLine target={target} title="Where the frames go" onChoose={changing(setTarget)}>
        <FolderChooser
          title="Where a second copy goes"
          verb="Choose"
          mayBeNew
          trigger={<Button>Second copy …</Button>}
          onChoose={async (path) => {
            changing(setSecond)(path);
            return undefined;
          }}
        />
      </TargetLine>
      {second && (
        <p className="mt-1 flex gap-2 text-ink2">
          <span className="min-w-0 truncate">and to {second}</span>
          <button type="button" className="text-xs underline" onClick={() => changing(setSecond)("")}>
            one copy only
          </button>
        </p>
      )}
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
      <AsJpegs sized={sized} onChange={changing(setSized)} />
      <Naming naming={naming} onChange={changing(setNaming)} {...names} />
      <div className="mt-2 flex flex-wrap gap-1.5">
        <Chip on={withMarks} onClick={() => changing(setWithMarks)(!withMarks)}>
          sidecars with the marks go along
        </Chip>
        <Chip on={keepFolders} onClick={() => changing(setKeepFolders)(!keepFolders)}>
          keep sub-folders
        </Chip>
      </div>
      <div className="mt-3 flex gap-2">
        <Button look="main" disabled={!scope.frames || !target} onClick={() => plan("copy-keepers")}>
          Plan a copy
        </Button>
        <Button
          disabled={!scope.frames || !target || only !== null || second !== "" || sized !== null}
          title={
            only !== null
              ? "A move takes all files of a frame along"
              : second || sized
                ? "A move takes the files themselves to one folder"
                : undefined
          }
          onClick={() => plan("move-keepers")}
        >
          Plan a move
        </Button>
      </div>
    </section>
  );
}
