import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, unwrap } from "../../api/client";
import type { components } from "../../api/schema";
import { inWords } from "../../api/words";
import { usePasses } from "../../shoot/walk/usePasses";
import { Button } from "../../ui/controls";
import { FileButton } from "../../ui/FileButton";
import { saveFile } from "../../ui/saveFile";
import { PassForm } from "./PassForm";

type Pass = components["schemas"]["Pass"];

/** All passes: those that come with Winnow can be copied, one's own changed, and which come in which order is said. */
export function PassShelf({ onBack }: { onBack: () => void }) {
  const client = useQueryClient();
  const passes = usePasses();
  const [draft, setDraft] = useState<Pass | null>(null);
  const [said, setSaid] = useState<string[]>([]);
  const told = {
    onSuccess: () => client.invalidateQueries({ queryKey: ["passes"] }),
    onError: (error: Error) => setSaid([inWords(error)]),
  };
  const order = useMutation({
    mutationFn: (names: string[]) => api.PUT("/api/passes/order", { body: { names } }).then(unwrap),
    ...told,
  });
  const forget = useMutation({
    mutationFn: (name: string) => api.POST("/api/passes/forget", { body: { name } }).then(unwrap),
    ...told,
  });
  const read = useMutation({
    mutationFn: (text: string) => api.POST("/api/passes/import", { body: { text } }).then(unwrap),
    onError: told.onError,
    onSuccess: ({ read, misfits }) => {
      const taken = read.length ? `Taken in: ${read.join(", ")}.` : "No pass was taken in.";
      setSaid(misfits.length ? [taken, "These did not fit:", ...misfits] : [taken]);
      void told.onSuccess();
    },
  });
  const keepFile = useMutation({
    mutationFn: () => api.GET("/api/passes/file").then(unwrap),
    onError: told.onError,
    onSuccess: ({ text }) => saveFile("passes.json", text, "application/json"),
  });
  if (!passes) return null;
  if (draft) return <PassForm draft={draft} onDone={() => setDraft(null)} />;
  const { ours, own } = passes;
  const all = [...ours, ...own];
  const named = new Map(all.map((one) => [one.name, one]));
  const inOrder = passes.order.filter((name) => named.has(name));
  const others = all.map(({ name }) => name).filter((name) => !inOrder.includes(name));
  const move = (name: string, by: number) => {
    const at = inOrder.indexOf(name);
    const next = inOrder.filter((one) => one !== name);
    next.splice(Math.max(0, at + by), 0, name);
    order.mutate(next);
  };
  return (
    <div className="pt-3">
      {said.length > 0 && (
        <ul role="alert" className="mb-3 rounded border border-straw bg-warm px-3 py-1.5">
          {said.map((line) => (
            <li key={line}>{line}</li>
          ))}
        </ul>
      )}
      <ol className="divide-y divide-edge border-y border-edge" aria-label="All passes">
        {[...inOrder, ...others].map((name) => {
          const pass = named.get(name);
          const isOurs = ours.some((one) => one.name === name);
          const isIn = inOrder.includes(name);
          return (
            pass && (
              <li key={name} className="flex min-h-10 items-center gap-2">
                <label className="flex min-h-6 w-40 items-center gap-2 truncate">
                  <input
                    type="checkbox"
                    title="Among those that a shoot is gone through with"
                    checked={isIn}
                    onChange={() =>
                      order.mutate(isIn ? inOrder.filter((one) => one !== name) : [...inOrder, name])
                    }
                  />
                  {name}
                </label>
                <span className="min-w-0 flex-1 truncate text-ink2">{pass.question}</span>
                {isIn && (
                  <>
                    <Small text={`${name}: earlier`} onPress={() => move(name, -1)}>
                      ↑
                    </Small>
                    <Small text={`${name}: later`} onPress={() => move(name, 1)}>
                      ↓
                    </Small>
                  </>
                )}
                <Button onClick={() => setDraft({ ...pass, name: copyName(name, named) })}>
                  Copy<span className="sr-only"> {name}</span>
                </Button>
                {isOurs ? (
                  <span className="w-32 text-xs text-ink2">comes with Winnow</span>
                ) : (
                  <span className="flex w-32 gap-2">
                    <Button onClick={() => setDraft(pass)}>
                      Change<span className="sr-only"> {name}</span>
                    </Button>
                    <Small text={`Forget ${name}`} onPress={() => forget.mutate(name)}>
                      ×
                    </Small>
                  </span>
                )}
              </li>
            )
          );
        })}
      </ol>
      <div className="flex flex-wrap items-center gap-2 pt-4">
        <Button onClick={onBack}>Back</Button>
        <span className="flex-1" />
        <Button onClick={() => keepFile.mutate()}>Export {own.length ? "mine" : "these"}</Button>
        <FileButton
          label="Import passes from a file"
          accept=".json,application/json"
          onText={(text) => read.mutate(text)}
        >
          Import …
        </FileButton>
      </div>
    </div>
  );
}

function copyName(name: string, taken: Map<string, unknown>): string {
  for (let n = 2; ; n++) if (!taken.has(`${name} ${n}`)) return `${name} ${n}`;
}

function Small({
  text,
  onPress,
  children,
}: {
  text: string;
  onPress: () => void;
  children: React.ReactNode;
}) {
  return (
    <button
      type="button"
      aria-label={text}
      title={text}
      onClick={onPress}
      className="size-6 text-ink2 hover:text-ink"
    >
      {children}
    </button>
  );
}
