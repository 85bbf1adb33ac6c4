import { useEffect, useMemo, useState } from "react";
import { type Bindings, bound, clash, doubled, readBindings, unbound, whyNot } from "../../keys/bindings";
import { allBound } from "../../keys/inForce";
import { keyName } from "../../keys/press";
import { addSet, changeSet, keySet, useKeySets } from "../../keys/sets";
import { loadLabels, useLabels } from "../../shoot/labels";
import { Chip } from "../../ui/controls";
import { useTitle } from "../../ui/useTitle";
import { CommandRow, OF_LABELS } from "./CommandRow";
import { Giving } from "./Giving";
import { Keyboard } from "./Keyboard";
import { Search } from "./Search";
import { SetLine } from "./SetLine";

const SCREENS = ["wall", "bench"];
const HELD = ["", "shift+", "ctrl+", "alt+"];

/** What waits for a key: a command, and which of its keys is to be another one. */
interface Wanted {
  id: string;
  instead: string | null;
}

/** Every command with its keys: searched by word or by pressing a key, changed by pressing, with clashes shown. */
export function Keys() {
  useTitle("Keys");
  const set = useKeySets(keySet);
  const labels = useLabels((s) => s.labels);
  useEffect(() => void loadLabels(), []);
  // biome-ignore lint/correctness/useExhaustiveDependencies: each label has its commands
  const commands = useMemo(() => allBound(set.keys), [set, labels]);
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
  const change = (keys: Bindings) => {
    const copy = changeSet({ keys });
    setSaid(copy ? [`${set.name} stays as it comes: this is a copy of it, “${copy}”.`] : []);
  };
  const stop = () => {
    setWanted(null);
    setGiven(null);
  };
  const give = (swap: boolean) => {
    if (wanted && given) change(bound(set.keys, commands, wanted.id, given, wanted.instead, swap));
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
    change(bound(set.keys, commands, wanted.id, next, wanted.instead, false));
    stop();
  };
  const onFile = (text: string, file: string) => {
    try {
      const { name, by, own, misfits } = readBindings(text, allBound({}));
      const called = addSet({ name: name ?? file.replace(/\.json$/i, ""), by, keys: own });
      setSaid(misfits.length ? [`Into “${called}”; these did not fit:`, ...misfits] : [`Into “${called}”.`]);
    } catch (error) {
      const why = error instanceof SyntaxError ? "it is no JSON" : (error as Error).message;
      setSaid([`${file} holds no keys: ${why}.`]);
    }
  };
  return (
    <div className="mx-auto flex h-full max-w-[1240px] flex-col gap-3 p-4">
      <SetLine set={set} onFile={onFile} />
      {doubled(commands).map((line) => (
        <p key={line} role="status" className="rounded border border-straw px-3 py-1.5">
          Two things on one key, the first is done: {line}
        </p>
      ))}
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
        by={set.by}
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
        {fits.map((command) => (
          <CommandRow
            key={command.id}
            command={command}
            isWanted={command.id === wanted?.id}
            onWant={(instead) => setWanted({ id: command.id, instead })}
            onTake={(key) => change(unbound(set.keys, commands, command.id, key))}
          />
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
