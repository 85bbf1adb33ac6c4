import { useState } from "react";
import { Link } from "wouter";
import { written } from "../../keys/bindings";
import {
  addSet,
  changeSet,
  chooseSet,
  forgetSet,
  isOurs,
  type KeySet,
  keySet,
  OURS,
  useKeySets,
} from "../../keys/sets";
import { Button, Chip } from "../../ui/controls";
import { FileButton } from "../../ui/FileButton";
import { count } from "../../ui/format";
import { saveFile } from "../../ui/saveFile";

interface Props {
  set: KeySet;
  /** Takes a set in from a file. */
  onFile: (text: string, name: string) => void;
}

/** The key sets: which is in force, and what can be done with it. */
export function SetLine({ set, onFile }: Props) {
  const own = useKeySets((s) => s.own);
  const isMine = !isOurs(set);
  const changes = Object.keys(set.keys).length;
  return (
    <>
      <header className="flex flex-wrap items-center gap-2">
        <h1 className="pr-2 text-lg font-semibold">Keys</h1>
        <Button onClick={() => history.back()}>Back</Button>
        <span className="flex-1" />
        <Link href="/keys/sheet" className="flex min-h-6 items-center underline underline-offset-2">
          Sheet to print …
        </Link>
        <Button onClick={() => saveFile("keys.json", written(set), "application/json")}>Export</Button>
        <FileButton label="Import keys from a file" accept=".json,application/json" onText={onFile}>
          Import …
        </FileButton>
      </header>
      <fieldset className="flex min-w-0 flex-wrap items-center gap-1.5 text-xs" aria-label="Key set">
        {[...OURS, ...own].map(({ id, name }) => (
          <Chip key={id} on={id === set.id} onClick={() => chooseSet(id)}>
            {name}
          </Chip>
        ))}
        <span className="w-3" />
        <Button onClick={() => addSet({ ...set, name: `${set.name}, copy` })}>Copy it</Button>
        {isMine && (
          <>
            <Name key={set.id} name={set.name} />
            <Button onClick={forgetSet}>Forget it</Button>
            <Button disabled={!changes} onClick={() => changeSet({ keys: {} })}>
              {changes ? `Undo all ${count(changes, "change")}` : "As they come"}
            </Button>
          </>
        )}
        <span className="flex-1" />
        <span className="text-ink2">goes by</span>
        <Chip on={set.by === "letter"} onClick={() => set.by !== "letter" && changeSet({ by: "letter" })}>
          letters
        </Chip>
        <Chip
          on={set.by === "position"}
          title="The places of the keys, as on the layout that most have, whatever is printed on them"
          onClick={() => set.by !== "position" && changeSet({ by: "position" })}
        >
          places
        </Chip>
      </fieldset>
    </>
  );
}

function Name({ name }: { name: string }) {
  const [typed, setTyped] = useState(name);
  const keep = () => {
    const wanted = typed.trim();
    const { own } = useKeySets.getState();
    const isTaken = [...OURS, ...own].some((one) => one.name === wanted && one.id !== keySet().id);
    if (!wanted || isTaken) return setTyped(name);
    changeSet({ name: wanted });
  };
  return (
    <input
      aria-label="Name of the key set"
      value={typed}
      maxLength={60}
      onChange={(event) => setTyped(event.target.value)}
      onBlur={keep}
      onKeyDown={(event) => event.key === "Enter" && keep()}
      className="h-7 w-36 rounded border border-line bg-pit px-2"
    />
  );
}
