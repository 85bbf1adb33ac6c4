import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { api, type PlanView, unwrap } from "../../api/client";
import { useShoot } from "../../shoot/store";
import { Button, Chip } from "../../ui/controls";
import { count } from "../../ui/format";
import { ContactSheet } from "./ContactSheet";
import type { Scope } from "./scope";
import { TargetLine } from "./TargetLine";

const SIZES = [1200, 1600, 2400];
const FIELDS = [
  { name: "title", title: "Title", lines: 1 },
  { name: "note", title: "Words to the client", lines: 2 },
  { name: "expires", title: "Until when", lines: 1 },
  { name: "contact", title: "Contact", lines: 2 },
  { name: "watermark", title: "Watermark", lines: 1 },
] as const;

interface Props {
  scope: Scope;
  onPlanned: (plan: PlanView) => void;
  onChange: () => void;
}

/** A proof set: pages for a client, from which an answer comes back. And the same on paper. */
export function ToProof({ scope, onPlanned, onChange }: Props) {
  const shootId = useShoot((s) => s.shootId);
  const [texts, setTexts] = useState({ title: "", note: "", expires: "", contact: "", watermark: "" });
  const [names, setNames] = useState(true);
  const [edge, setEdge] = useState(1600);
  const [target, setTarget] = useState("");
  const make = useMutation({
    mutationFn: () =>
      api
        .POST("/api/shoots/{shoot_id}/proofs", {
          params: { path: { shoot_id: shootId } },
          body: { ...texts, ...scope.wish, names, target, long_edge: edge },
        })
        .then(unwrap),
    onSuccess: ({ plan }) => onPlanned(plan),
  });
  const changed = <T,>(set: (value: T) => void) => {
    return (value: T) => {
      set(value);
      make.reset();
      onChange();
    };
  };
  return (
    <section>
      <h2 className="text-[15px] font-semibold">{count(scope.frames, scope.noun)} for a client</h2>
      <p className="mt-1 max-w-prose text-ink2">
        A folder with one page that works from a stick or any web space: the client likes, refuses, comments,
        and gives a file or a text back. Numbers run in the order of the wall.
      </p>
      <div className="mt-3 grid max-w-2xl grid-cols-[130px_1fr] items-start gap-x-3 gap-y-2">
        {FIELDS.map(({ name, title, lines }) => (
          <Field
            key={name}
            id={`proof-${name}`}
            title={title}
            lines={lines}
            value={texts[name]}
            onChange={(value) => changed(setTexts)({ ...texts, [name]: value })}
          />
        ))}
      </div>
      <fieldset aria-label="Large view" className="mt-3 flex flex-wrap items-center gap-1.5">
        {SIZES.map((size) => (
          <Chip key={size} on={size === edge} onClick={() => changed(setEdge)(size)}>
            {size} px
          </Chip>
        ))}
        <Chip on={names} onClick={() => changed(setNames)(!names)}>
          names beside the numbers
        </Chip>
      </fieldset>
      <div className="mt-3">
        <TargetLine
          target={target}
          title="Where the proof set goes: a folder of its own"
          onChoose={changed(setTarget)}
        />
      </div>
      {make.error && (
        <p role="alert" className="mt-2 border-l-2 border-straw pl-3">
          {make.error.message}
        </p>
      )}
      <div className="mt-3">
        <Button
          look="main"
          disabled={!scope.frames || !target || !texts.title.trim() || make.isPending}
          onClick={() => make.mutate()}
        >
          Plan the proof set
        </Button>
      </div>
      <ContactSheet scope={scope} title={texts.title} />
    </section>
  );
}

interface FieldProps {
  id: string;
  title: string;
  lines: number;
  value: string;
  onChange: (value: string) => void;
}

function Field({ id, title, lines, value, onChange }: FieldProps) {
  const look = "w-full rounded border border-line bg-pit px-2 py-1";
  return (
    <>
      <label htmlFor={id} className="pt-1 text-ink2">
        {title}
      </label>
      {lines > 1 ? (
        <textarea
          id={id}
          rows={lines}
          value={value}
          maxLength={2000}
          onChange={(event) => onChange(event.target.value)}
          className={look}
        />
      ) : (
        <input
          id={id}
          value={value}
          maxLength={200}
          onChange={(event) => onChange(event.target.value)}
          className={look}
        />
      )}
    </>
  );
}
