import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { ApiError, api, unwrap } from "../../api/client";
import { inWords } from "../../api/words";
import {
  defineLabels,
  fold,
  type Label,
  type LabelSet,
  loadLabels,
  takeBackLabels,
  useLabels,
} from "../../shoot/labels";
import { Button } from "../../ui/controls";
import { count } from "../../ui/format";
import { LargeDialog } from "../../ui/LargeDialog";
import { SHAPES, type ShapeName } from "../../ui/shapes";
import { exportLabels, Importer } from "./LabelFile";
import { LabelRow } from "./LabelRow";
import { COLOURS, FIELD } from "./looks";

interface Props {
  open: boolean;
  onOpenChange: (open: boolean) => void;
}

/** Labels defined, renamed, merged, adopted, exported and imported. Nothing is in force before it is kept. */
export function LabelsDialog({ open, onOpenChange }: Props) {
  return (
    <LargeDialog title="Labels" width="w-[min(1000px,96vw)]" open={open} onOpenChange={onOpenChange}>
      <Editor onDone={() => onOpenChange(false)} />
    </LargeDialog>
  );
}

function useUse() {
  return useQuery({
    queryKey: ["label-use"],
    staleTime: 0,
    queryFn: () => api.GET("/api/labels/use").then(unwrap),
  }).data;
}

function Editor({ onDone }: { onDone: () => void }) {
  const inForce = useLabels();
  const [labels, setLabels] = useState<Label[]>(inForce.labels);
  const [program, setProgram] = useState(inForce.program);
  const [programs, setPrograms] = useState(() => programsOf(inForce));
  const [said, setSaid] = useState<string[]>([]);
  const [wrong, setWrong] = useState<string | null>(null);
  const use = useUse() ?? [];
  // Taken back, or changed elsewhere: what is shown begins anew.
  // biome-ignore lint/correctness/useExhaustiveDependencies: the version says it all
  useEffect(() => {
    setLabels(inForce.labels);
    setProgram(inForce.program);
    setPrograms(programsOf(inForce));
    setSaid([]);
  }, [inForce.version]);
  const say = (what: string) => {
    setWrong(null);
    setSaid((before) => [...before.filter((one) => one !== what), what]);
  };
  const change = (id: string, to: Partial<Label>, what: string) => {
    setLabels((before) => before.map((one) => (one.id === id ? { ...one, ...to } : one)));
    say(what);
  };
  const calledBefore = ({ id }: Label) => inForce.labels.find((one) => one.id === id)?.name ?? id;
  const framesOf = (label: Label) => {
    const ids = new Set([label.id, ...(label.also ?? [])]);
    return use.filter(({ text }) => ids.has(text)).reduce((sum, one) => sum + one.frames, 0);
  };
  const drop = (label: Label) => {
    setLabels((before) => before.filter((one) => one.id !== label.id));
    say(`label ${label.name} deleted`);
  };
  const merge = (from: Label, into: string) => {
    setLabels((before) =>
      before
        .filter((one) => one.id !== from.id)
        .map((one) =>
          one.id === into ? { ...one, also: [...(one.also ?? []), from.id, ...(from.also ?? [])] } : one,
        ),
    );
    say(`label ${from.name} merged into ${labels.find((one) => one.id === into)?.name}`);
  };
  const add = (name: string) => {
    const label = fresh(name, labels);
    setLabels((before) => [...before, label]);
    say(`label ${name} defined`);
  };
  const known = new Set(labels.flatMap((one) => [one.id, ...(one.also ?? [])]).map(fold));
  const foreign = use.filter(({ text, label }) => !known.has(fold(text)) && !isMeant(labels, label));
  const deleted = inForce.labels.filter((one) => !known.has(fold(one.id)) && framesOf(one) > 0);
  const keep = async () => {
    try {
      await defineLabels({ labels, program }, said.join(", ").slice(0, 200));
      onDone();
    } catch (error) {
      setWrong(inWords(error));
      if (error instanceof ApiError && error.code === "overtaken") await loadLabels();
    }
  };
  return (
    <>
      <div className="overflow-x-auto">
        <table className="mt-3 w-full border-separate border-spacing-x-1.5 border-spacing-y-1 text-left">
          <thead className="text-xs text-ink2">
            <tr>
              <th className="font-normal">Key</th>
              <th className="font-normal">Shape</th>
              <th className="font-normal">Colour</th>
              <th className="font-normal">Name</th>
              <th className="w-full font-normal">Meaning</th>
              {programs.map((name) => (
                <th key={name} className="font-normal whitespace-nowrap">
                  text for {name}
                </th>
              ))}
              <th className="font-normal">Frames</th>
              <th className="font-normal">Merge into</th>
              <th />
            </tr>
          </thead>
          <tbody>
            {labels.map((label) => (
              <LabelRow
                key={label.id}
                label={label}
                programs={programs}
                colours={inForce.colours}
                frames={framesOf(label)}
                others={labels.filter((one) => one.id !== label.id)}
                onChange={(to, what) => change(label.id, to, `label ${calledBefore(label)} ${what}`)}
                onMerge={(into) => merge(label, into)}
                onDrop={() => drop(label)}
                onWrong={setWrong}
              />
            ))}
          </tbody>
        </table>
      </div>
      {deleted.map((label) => (
        <p key={label.id} role="status" className="pt-1 text-ink2">
          {label.name} is on {count(framesOf(label), "frame")}. They keep its text and show it as not defined;
          define it again, or undo, and it is theirs again.
        </p>
      ))}
      <div className="flex flex-wrap items-center gap-2 pt-2">
        <Adder placeholder="name of a new label" action="Define" onAdd={add} />
        <Adder
          placeholder="an editing program"
          action="Its texts …"
          onAdd={(name) => {
            setPrograms((before) => [...new Set([...before, name])]);
            setProgram(name);
            say(`texts for ${name}`);
          }}
        />
        {programs.length > 0 && (
          <label className="flex items-center gap-1.5 text-ink2">
            labels are written
            <select
              value={program ?? ""}
              onChange={(event) => {
                setProgram(event.target.value || null);
                say(`labels written for ${event.target.value || "no program"}`);
              }}
              className="min-h-7 rounded border border-line bg-pit px-1 text-ink"
            >
              <option value="">by their names</option>
              {programs.map((name) => (
                <option key={name} value={name}>
                  for {name}
                </option>
              ))}
            </select>
          </label>
        )}
      </div>
      {foreign.length > 0 && (
        <section className="pt-3">
          <h3 className="pb-1 font-semibold">Found on frames, not defined here</h3>
          <ul className="flex flex-wrap gap-2">
            {foreign.map(({ text, frames }) => (
              <li key={text} className="flex items-center gap-2 rounded border border-edge px-2 py-1">
                {text} <span className="text-ink2">{count(frames, "frame")}</span>
                <Button onClick={() => add(text)}>Adopt {text}</Button>
              </li>
            ))}
          </ul>
        </section>
      )}
      {wrong && (
        <p role="alert" className="mt-3 rounded border border-straw bg-warm px-3 py-1.5">
          {wrong}
        </p>
      )}
      <div className="flex flex-wrap items-center gap-2 pt-4">
        <Button look="main" disabled={!said.length} onClick={() => void keep()}>
          Keep {said.length > 0 && count(said.length, "change")}
        </Button>
        <Button disabled={!inForce.last} onClick={() => void takeBackLabels()}>
          {inForce.last ? `Undo: ${inForce.last}` : "Nothing to undo"}
        </Button>
        <span className="flex-1" />
        <Button onClick={() => exportLabels({ labels, program })}>Export</Button>
        <Importer
          onWrong={setWrong}
          onSet={(set) => {
            setLabels(set.labels);
            setProgram(set.program ?? null);
            setPrograms(programsOf(set));
            say("labels imported");
          }}
        />
      </div>
    </>
  );
}

function programsOf({ labels, program }: LabelSet): string[] {
  const named = labels.flatMap((label) => Object.keys(label.texts ?? {}));
  return [...new Set([...named, ...(program ? [program] : [])])].sort();
}

function isMeant(labels: Label[], id: string | null): boolean {
  return id !== null && labels.some((label) => label.id === id);
}

/** A new label looks like none of the others, as long as that is possible. */
function fresh(name: string, labels: Label[]): Label {
  const colour = COLOURS.find((one) => labels.every((label) => label.colour !== one)) ?? "orange";
  const shapes = Object.keys(SHAPES) as ShapeName[];
  const shape = shapes.find((one) => labels.every((label) => label.shape !== one)) ?? "disc";
  const key = [..."qwert"].find((one) => labels.every((label) => label.key !== one)) ?? null;
  return { id: name, name, meaning: "", colour, shape, key, texts: {}, also: [] };
}

function Adder(props: { placeholder: string; action: string; onAdd: (name: string) => void }) {
  const [name, setName] = useState("");
  return (
    <form
      className="flex items-center gap-1.5"
      onSubmit={(event) => {
        event.preventDefault();
        if (name.trim()) props.onAdd(name.trim());
        setName("");
      }}
    >
      <input
        aria-label={props.placeholder}
        placeholder={props.placeholder}
        value={name}
        maxLength={80}
        onChange={(event) => setName(event.target.value)}
        className={`${FIELD} w-44 placeholder:text-ink3`}
      />
      <Button type="submit" disabled={!name.trim()}>
        {props.action}
      </Button>
    </form>
  );
}
