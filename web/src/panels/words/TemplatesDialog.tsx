import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, unwrap } from "../../api/client";
import { tell } from "../../shoot/errors";
import type { Template } from "../../shoot/words";
import { Button } from "../../ui/controls";
import { LargeDialog } from "../../ui/LargeDialog";
import { useTemplates } from "./useTemplates";
import { Vocabulary } from "./Vocabulary";

interface Props {
  open: boolean;
  onOpenChange: (open: boolean) => void;
}

const BLANK: Template = { name: "", caption: "", headline: "", keywords: [], creators: [], copyright: "" };
const TOKENS = "{date} {time} {counter} {camera} {title} {scene} {name}";

/** Templates made, changed and forgotten, and the list of keywords that completion draws on. */
export function TemplatesDialog({ open, onOpenChange }: Props) {
  return (
    <LargeDialog title="Templates" width="w-[min(720px,96vw)]" open={open} onOpenChange={onOpenChange}>
      <Editor />
      <Vocabulary />
    </LargeDialog>
  );
}

function Editor() {
  const client = useQueryClient();
  const templates = useTemplates() ?? [];
  const [one, setOne] = useState<Template>(BLANK);
  const isKnown = templates.some(({ name }) => name === one.name.trim());
  const onSuccess = (found: Template[]) => client.setQueryData(["templates"], found);
  const keep = useMutation({
    mutationFn: (body: Template) => api.PUT("/api/templates", { body }).then(unwrap),
    onSuccess: (found, kept) => {
      onSuccess(found);
      setOne(kept);
    },
    onError: tell,
  });
  const forget = useMutation({
    mutationFn: () => api.POST("/api/templates/forget", { body: { name: one.name.trim() } }).then(unwrap),
    onSuccess: (found) => {
      onSuccess(found);
      setOne(BLANK);
    },
    onError: tell,
  });
  return (
    <section className="pt-3">
      <ul className="flex flex-wrap gap-1.5 pb-3">
        {[...templates, BLANK].map((template) => (
          <li key={template.name}>
            <button
              type="button"
              aria-pressed={template.name === one.name}
              onClick={() => setOne(template)}
              className={`min-h-6 rounded-full border px-2.5 text-xs ${template.name === one.name ? "border-ink2 bg-held" : "border-line"} ${template.name ? "" : "border-dashed"}`}
            >
              {template.name || "new …"}
            </button>
          </li>
        ))}
      </ul>
      <div className="grid grid-cols-[90px_1fr] items-start gap-x-3 gap-y-2">
        <Field label="Name" value={one.name} onChange={(name) => setOne({ ...one, name })} />
        <Field
          label="Caption"
          lines
          value={one.caption ?? ""}
          onChange={(caption) => setOne({ ...one, caption })}
        />
        <Field
          label="Headline"
          value={one.headline ?? ""}
          onChange={(headline) => setOne({ ...one, headline })}
        />
        <Field
          label="Keywords"
          hint="one a line"
          lines
          value={(one.keywords ?? []).join("\n")}
          onChange={(text) => setOne({ ...one, keywords: text.split("\n") })}
        />
        <Field
          label="Creator"
          hint="one a line"
          lines
          value={(one.creators ?? []).join("\n")}
          onChange={(text) => setOne({ ...one, creators: text.split("\n") })}
        />
        <Field
          label="Copyright"
          value={one.copyright ?? ""}
          onChange={(copyright) => setOne({ ...one, copyright })}
        />
      </div>
      <p className="pt-2 text-xs text-ink2">
        Filled in for each frame: {TOKENS}. With a form: {"{date:%d.%m.%Y}"}, {"{counter:3}"} for 001. What is
        empty says nothing.
      </p>
      <div className="flex gap-2 pt-2">
        <Button look="main" disabled={!one.name.trim()} onClick={() => keep.mutate(tidied(one))}>
          {isKnown ? "Keep the change" : "Keep as a template"}
        </Button>
        {isKnown && <Button onClick={() => forget.mutate()}>Forget it</Button>}
      </div>
    </section>
  );
}

function tidied(one: Template): Template {
  const lines = (items: string[] = []) => items.map((line) => line.trim()).filter(Boolean);
  return { ...one, name: one.name.trim(), keywords: lines(one.keywords), creators: lines(one.creators) };
}

interface FieldProps {
  label: string;
  hint?: string;
  value: string;
  lines?: boolean;
  onChange: (text: string) => void;
}

function Field({ label, hint, value, lines, onChange }: FieldProps) {
  const look = "w-full rounded border border-line bg-pit px-2 py-1";
  return (
    <>
      <span className="pt-1 text-ink2">
        {label}
        {hint && <span className="block text-xs">{hint}</span>}
      </span>
      {lines ? (
        <textarea
          aria-label={label}
          rows={2}
          value={value}
          onChange={(event) => onChange(event.target.value)}
          className={look}
        />
      ) : (
        <input
          aria-label={label}
          value={value}
          onChange={(event) => onChange(event.target.value)}
          className={look}
        />
      )}
    </>
  );
}
