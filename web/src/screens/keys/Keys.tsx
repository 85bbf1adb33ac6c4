import { useEffect, useMemo, useState } from "react";
import {
  type Bindings,
  bound,
  clash,
  readBindings,
  unbound,
  useBindings,
  whyNot,
  written,
} from "../../keys/bindings";
import { allBound } from "../../keys/inForce";
import { keyName } from "../../keys/press";
import { loadLabels, useLabels } from "../../shoot/labels";
import { Button, Chip, Kbd } from "../../ui/controls";
import { FileButton } from "../../ui/FileButton";
import { count } from "../../ui/format";
import { saveFile } from "../../ui/saveFile";
import { useTitle } from "../../ui/useTitle";
import { Giving } from "./Giving";
import { Keyboard } from "./Keyboard";
import { Search } from "./Search";

const SCREENS = ["wall", "bench"];
const HELD = ["", "shift+", "ctrl+", "alt+"];
/** Keys of labels are said where labels are. */
const OF_LABELS = /^(filter-)?label-/;

/** What waits for a key: a command, and which of its keys is to be another one. */
interface Wanted {
  id: string;
  instead: string | null;
}

/** Every command with its keys: searched by word or by pressing a key, changed by pressing, with clashes shown. */
export function Keys() {
  useTitle("Keys");
  const own = useBindings((s) => s.own);
  const labels = useLabels((s) => s.labels);
  useEffect(() => void loadLabels(), []);
  // biome-ignore lint/correctness/useExhaustiveDependencies: each label has its commands
  const commands = useMemo(() => allBound(own), [own, labels]);
  const [screen, setScreen] = useState("bench");
  const [held, setHeld] = useState("");
  const [typed, setTyped] = useState("");
  const [press, setPress] = useState<string | null>(null);
  const [wanted, setWanted] = useState<Wanted | null>(null);
  const [given, setGiven] = useState<string | null>(null);
  const [said, setSaid] = useState<string[]>([]);
  const here = commands.filter(({ screens }) => screens.includes(screen));
  const fits = commands.filter(({ title, section, keys }) =>
    press ? keys.includes(press) : `${title} ${section}`.toLowerCase().includes(typed.trim().toLowerCase()),
  );
  const isChanged = Object.keys(own).length > 0;
  const set = (next: Bindings) => useBindings.setState({ own: next });
  const stop = () => {
    setWanted(null);
    setGiven(null);
  };
  const give = (swap: boolean) => {
    if (wanted && given) set(bound(own, commands, wanted.id, given, wanted.instead, swap));
    stop();
  };
  const refusal = (next: string) => {
    const other = wanted ? clash(commands, wanted.id, next) : undefined;
    return (
      whyNot(next) ?? (other && OF_LABELS.test(other.id) ? `${other.title} has it, change it there` : null)
    );
  };
  const onGiven = (next: string) => {
    if (!wanted) return;
    if (refusal(next) || clash(commands, wanted.id, next)) return setGiven(next);
    set(bound(own, commands, wanted.id, next, wanted.instead, false));
    stop();
  };
  return (
    <div className="mx-auto flex h-full max-w-[1240px] flex-col gap-3 p-4">
      <header className="flex flex-wrap items-center gap-2">
        <h1 className="pr-2 text-lg font-semibold">Keys</h1>
        <Button onClick={() => history.back()}>Back</Button>
        <span className="flex-1" />
        <Button disabled={!isChanged} onClick={() => set({})}>
          {isChanged ? `Undo all ${count(Object.keys(own).length, "change")}` : "As they come"}
        </Button>
        <Button onClick={() => saveFile("keys.json", written(own), "application/json")}>Export</Button>
        <FileButton
          label="Import keys from a file"
          accept=".json,application/json"
          onText={(text, name) => {
            try {
              const { own: read, misfits } = readBindings(text, allBound({}));
              set(read);
              setSaid(misfits.length ? [`From ${name}, these did not fit:`, ...misfits] : []);
            } catch (error) {
              const why = error instanceof SyntaxError ? "it is no JSON" : (error as Error).message;
              setSaid([`${name} holds no keys: ${why}.`]);
            }
          }}
        >
          Import …
        </FileButton>
      </header>
      {said.length > 0 && (
        <ul role="alert" className="rounded border border-straw bg-warm px-3 py-1.5">
          {said.map((line) => (
            <li key={line}>{line}</li>
          ))}
        </ul>
      )}
      <div className="flex items-center gap-1.5 text-xs">
        {SCREENS.map((one) => (
          <Chip key={one} on={one === screen} onClick={() => setScreen(one)}>
            on the {one}
          </Chip>
        ))}
        <span className="w-3" />
        {HELD.map((one) => (
          <Chip key={one} on={one === held} onClick={() => setHeld(one)}>
            {one ? `with ${keyName(one.slice(0, -1))}` : "alone"}
          </Chip>
        ))}
      </div>
      <Keyboard
        commands={here}
        held={held}
        found={press}
        onPress={(next) => (wanted ? onGiven(next) : setPress(next))}
      />
      <Search typed={typed} press={press} onType={setTyped} onPress={setPress} />
      {wanted && (
        <Giving
          title={commands.find(({ id }) => id === wanted.id)?.title ?? ""}
          given={given}
          why={given ? refusal(given) : null}
          other={given ? clash(commands, wanted.id, given)?.title : undefined}
          instead={wanted.instead}
          onGiven={onGiven}
          onSwap={() => give(true)}
          onTake={() => give(false)}
          onCancel={stop}
        />
      )}
      <ul className="min-h-0 flex-1 overflow-y-auto border-t border-edge" aria-label="Commands">
        {fits.map(({ id, title, section, screens, keys }) => (
          <li
            key={id}
            className={`flex min-h-9 items-center gap-3 border-b border-edge px-2 ${id === wanted?.id ? "bg-warm" : ""}`}
          >
            <span className="min-w-0 flex-1 truncate">{title}</span>
            <span className="w-20 text-ink2">{section}</span>
            <span className="w-36 truncate text-xs text-ink2">{screens.join(", ")}</span>
            <span className="flex w-64 flex-wrap items-center justify-end gap-1">
              {keys.map((key) =>
                OF_LABELS.test(id) ? (
                  <Kbd key={key}>{keyName(key)}</Kbd>
                ) : (
                  <span key={key} className="flex items-center">
                    <button
                      type="button"
                      title={`${keyName(key)}: press another key for it`}
                      onClick={() => setWanted({ id, instead: key })}
                      className="min-h-6"
                    >
                      <Kbd>{keyName(key)}</Kbd>
                    </button>
                    <button
                      type="button"
                      aria-label={`Take ${keyName(key)} from ${title}`}
                      title="Take it off"
                      onClick={() => set(unbound(own, commands, id, key))}
                      className="size-6 text-ink2 hover:text-ink"
                    >
                      ×
                    </button>
                  </span>
                ),
              )}
              {OF_LABELS.test(id) ? (
                <span className="text-xs text-ink2">said with the label</span>
              ) : (
                <button
                  type="button"
                  aria-label={`Another key for ${title}`}
                  title="Another key"
                  onClick={() => setWanted({ id, instead: null })}
                  className="size-6 rounded border border-dashed border-line text-ink2 hover:text-ink"
                >
                  +
                </button>
              )}
            </span>
          </li>
        ))}
        {fits.length === 0 && (
          <li className="p-2 text-ink2">
            {press ? `${keyName(press)} is free.` : "Nothing is called like that."}
          </li>
        )}
      </ul>
    </div>
  );
}
