import { useMutation, useQueryClient } from "@tanstack/react-query";
import { type ReactNode, useId, useState } from "react";
import { api, unwrap } from "../../api/client";
import type { components } from "../../api/schema";
import { inWords } from "../../api/words";
import { Button, Chip } from "../../ui/controls";

type Schemas = components["schemas"];
type Pass = Schemas["Pass"];
type Does = Schemas["Does"];

const DOES: Record<Does, string> = {
  keep: "keep",
  reject: "reject",
  leave: "leave undecided, go on",
  "keep-lead": "keep the lead",
  "keep-lead-only": "keep the lead, reject the rest",
  stars: "stars",
  labels: "labels",
  words: "caption and keywords",
  turn: "turn the picture",
  point: "the point that matters",
  "lay-aside": "off the stage, undecided",
  "put-back": "back on the stage",
  flip: "flip two",
  "take-place": "the challenger takes the place",
  "next-group": "next group",
  "next-undecided": "next undecided",
  evidence: "evidence",
  peaking: "edges in focus, blur map",
};
const START: Schemas["Start"][] = ["as it is", "all kept", "open again"];
const ORDER: Schemas["Order"][] = ["frame by frame", "group by group", "two by two"];
const LAYOUT: Schemas["Layout"][] = ["one frame", "two frames", "the whole group"];
const ZOOM: Schemas["Zoom"][] = ["whole picture", "100 %"];
const LEAVES: Schemas["Leaves"][] = ["nothing", "rejects", "keepers", "what is decided"];
const DONE: Schemas["Done"][] = ["seen", "decided", "rated", "labelled"];
const GOES: Schemas["Goes"][] = ["keep", "reject", "stars", "labels"];

/** Everything that a pass is, to be changed. */
export function PassForm({ draft, onDone }: { draft: Pass; onDone: () => void }) {
  const client = useQueryClient();
  const [pass, setPass] = useState(draft);
  const [bulk, setBulk] = useState(draft.bulk.join("\n"));
  const set = (change: Partial<Pass>) => setPass({ ...pass, ...change });
  const keep = useMutation({
    mutationFn: () => {
      const said = bulk.split("\n").map((line) => line.trim());
      return api.PUT("/api/passes", { body: { ...pass, bulk: said.filter(Boolean) } }).then(unwrap);
    },
    onSuccess: () => {
      void client.invalidateQueries({ queryKey: ["passes"] });
      onDone();
    },
  });
  const does = pass.keys.map((key) => key.does);
  const toggleKey = (one: Does) =>
    set({
      keys: does.includes(one)
        ? pass.keys.filter((key) => key.does !== one)
        : [...pass.keys, { does: one, says: "" }],
    });
  const toggleGoing = (one: Schemas["Goes"]) =>
    set({
      goes_on: pass.goes_on.includes(one)
        ? pass.goes_on.filter((other) => other !== one)
        : [...pass.goes_on, one],
    });
  return (
    <form
      className="grid grid-cols-[max-content_1fr] items-center gap-x-4 gap-y-2.5 pt-3"
      onSubmit={(event) => {
        event.preventDefault();
        keep.mutate();
      }}
    >
      <Line title="Name">
        <Text value={pass.name} onText={(name) => set({ name })} />
      </Line>
      <Line title="Its question">
        <Text value={pass.question} onText={(question) => set({ question })} />
      </Line>
      <Line title="It asks about">
        <Text
          value={pass.scope}
          onText={(scope) => set({ scope })}
          placeholder="all frames; or a filter: not rejects, warned"
        />
      </Line>
      <Line title="They start">
        <OneOf options={START} value={pass.start} onChoose={(start) => set({ start })} />
      </Line>
      <Line title="It goes">
        <OneOf options={ORDER} value={pass.order} onChoose={(order) => set({ order })} />
        <Chip on={pass.warned_first} onClick={() => set({ warned_first: !pass.warned_first })}>
          warnings first
        </Chip>
      </Line>
      <Line title="On the stage">
        <OneOf options={LAYOUT} value={pass.layout} onChoose={(layout) => set({ layout })} />
        <Chip on={pass.beside_keeper} onClick={() => set({ beside_keeper: !pass.beside_keeper })}>
          beside the keeper of the group
        </Chip>
        <OneOf options={ZOOM} value={pass.zoom} onChoose={(zoom) => set({ zoom })} />
        <Chip on={pass.full} onClick={() => set({ full: !pass.full })}>
          full screen
        </Chip>
      </Line>
      <Line title="Its keys">
        {(Object.keys(DOES) as Does[]).map((one) => (
          <Chip key={one} on={does.includes(one)} onClick={() => toggleKey(one)}>
            {DOES[one]}
          </Chip>
        ))}
      </Line>
      <Line title="Goes on after">
        {GOES.map((one) => (
          <Chip key={one} on={pass.goes_on.includes(one)} onClick={() => toggleGoing(one)}>
            {one}
          </Chip>
        ))}
      </Line>
      <Line title="What leaves">
        <OneOf options={LEAVES} value={pass.leaves} onChoose={(leaves) => set({ leaves })} />
      </Line>
      <Line title="A frame is done when">
        <OneOf options={DONE} value={pass.done} onChoose={(done) => set({ done })} />
      </Line>
      <Line title="Several at once">
        <textarea
          aria-label="Several at once: a filter on each line"
          rows={3}
          value={bulk}
          onChange={(event) => setBulk(event.target.value)}
          placeholder="a filter on each line: warned"
          className="w-full rounded border border-line bg-pit px-2 py-1 placeholder:text-ink3"
        />
      </Line>
      {keep.error && (
        <p role="alert" className="col-span-2 rounded border border-straw bg-warm px-3 py-1.5">
          {inWords(keep.error)}
        </p>
      )}
      <div className="col-span-2 flex justify-end gap-2">
        <Button onClick={onDone}>Keep as it was</Button>
        <Button look="main" type="submit" disabled={!pass.name.trim() || !pass.keys.length}>
          Keep
        </Button>
      </div>
    </form>
  );
}

function Line({ title, children }: { title: string; children: ReactNode }) {
  const id = useId();
  return (
    <>
      <span id={id} className="text-ink2">
        {title}
      </span>
      <fieldset aria-labelledby={id} className="flex min-w-0 flex-wrap items-center gap-1.5">
        {children}
      </fieldset>
    </>
  );
}

interface TextProps {
  value: string;
  onText: (text: string) => void;
  placeholder?: string;
}

function Text({ value, onText, placeholder }: TextProps) {
  return (
    <input
      aria-label={placeholder ?? "Text"}
      value={value}
      placeholder={placeholder}
      maxLength={2000}
      onChange={(event) => onText(event.target.value)}
      className="h-7 w-full rounded border border-line bg-pit px-2 placeholder:text-ink3"
    />
  );
}

interface OneOfProps<T> {
  options: T[];
  value: T;
  onChoose: (value: T) => void;
}

function OneOf<T extends string>({ options, value, onChoose }: OneOfProps<T>) {
  return options.map((one) => (
    <Chip key={one} on={one === value} onClick={() => onChoose(one)}>
      {one}
    </Chip>
  ));
}
