import { useMutation } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { api, unwrap } from "../../api/client";
import type { components } from "../../api/schema";
import { useShoot } from "../../shoot/store";
import { Button, Chip } from "../../ui/controls";
import { count } from "../../ui/format";
import { KeptChip } from "../../ui/KeptChip";
import { useSettings } from "../../ui/settings";
import { NewEditor } from "./NewEditor";
import { useEditors } from "./useEditors";

type Prefer = components["schemas"]["OpeningWish"]["prefer"];

const PREFER: { prefer: NonNullable<Prefer>; title: string }[] = [
  { prefer: "raw", title: "RAW where there is one" },
  { prefer: "picture", title: "JPEG where there is one" },
];

interface Props {
  /** Which frames, asked when the program is opened; and how many they are. */
  frames: () => number[];
  counted: number;
  noun?: string;
  /** The keyboard goes to the button that opens them. */
  first?: boolean;
  onOpened?: () => void;
}

/** Frames opened in an editing program: which one, and which file of each. */
export function Editors({ frames, counted, noun = "frame", first = false, onOpened }: Props) {
  const shootId = useShoot((s) => s.shootId);
  const { data, keep, forget } = useEditors();
  const { editor, editorTakes: prefer } = useSettings();
  const [adding, setAdding] = useState(false);
  const known = data?.editors ?? [];
  const chosen = known.find(({ name }) => name === editor) ?? known[0];
  const button = useRef<HTMLButtonElement>(null);
  const isThere = chosen !== undefined;
  useEffect(() => {
    if (first && isThere) button.current?.focus();
  }, [first, isThere]);
  const open = useMutation({
    mutationFn: (name: string) =>
      api
        .POST("/api/shoots/{shoot_id}/open-in-editor", {
          params: { path: { shoot_id: shootId } },
          body: { editor: name, frames: frames(), prefer },
        })
        .then(unwrap),
    onSuccess: (answer) => !answer.missing.length && onOpened?.(),
  });
  if (!data) return null;
  if (data.refusal) return <p className="mt-2 border-l-2 border-straw pl-3">{data.refusal}</p>;
  return (
    <>
      {known.length > 0 && (
        <fieldset aria-label="Program" className="mt-2 flex flex-wrap gap-1.5">
          {known.map((one) => (
            <KeptChip
              key={one.name}
              what={`the program ${one.name}`}
              title={one.problem ?? one.command}
              on={one.name === chosen?.name}
              onUse={() => useSettings.setState({ editor: one.name })}
              onForget={() => forget.mutate(one.name)}
            >
              {one.name}
            </KeptChip>
          ))}
        </fieldset>
      )}
      {chosen && (
        <>
          <p className="mt-1 truncate font-mono text-xs text-ink2" title={chosen.command}>
            {chosen.command}
          </p>
          {chosen.problem && <p className="mt-1 border-l-2 border-straw pl-3">{chosen.problem}</p>}
          <fieldset aria-label="Which file" className="mt-2 flex flex-wrap gap-1.5">
            {PREFER.map((one) => (
              <Chip
                key={one.prefer}
                on={one.prefer === prefer}
                onClick={() => useSettings.setState({ editorTakes: one.prefer })}
              >
                {one.title}
              </Chip>
            ))}
          </fieldset>
          <div className="mt-3 flex flex-wrap items-center gap-2">
            <Button
              ref={button}
              look="main"
              disabled={!counted || open.isPending}
              onClick={() => open.mutate(chosen.name)}
            >
              Open {count(counted, noun)} in {chosen.name}
            </Button>
            <Button onClick={() => setAdding(!adding)} aria-expanded={adding}>
              Another program …
            </Button>
          </div>
        </>
      )}
      {open.error && (
        <p role="alert" className="mt-2 border-l-2 border-straw pl-3">
          {open.error.message}
        </p>
      )}
      {open.data && (
        <p role="status" className="mt-2 text-ink2">
          {count(open.data.files, "file")} handed over.
          {open.data.missing.length > 0 &&
            ` Not where they were, so left out: ${open.data.missing.join(", ")}.`}
        </p>
      )}
      {(adding || !known.length) && <NewEditor keep={keep} onKept={() => setAdding(false)} />}
    </>
  );
}
