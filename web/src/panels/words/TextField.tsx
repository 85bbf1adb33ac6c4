import { type KeyboardEvent, useEffect, useRef, useState } from "react";
import { goHome } from "../../keys/home";
import type { HeldText } from "../../shoot/words";
import { count } from "../../ui/format";
import { Filled } from "./Filled";

interface Props {
  id?: string;
  label: string;
  /** The different texts of the frames; undefined until they are known. */
  held: HeldText[] | undefined;
  frameIds: number[];
  rows?: number;
  onSay: (frameIds: number[], text: string | null) => void;
  /** Ctrl Enter: said, and on. */
  onNext?: () => void;
}

/** One text of some frames. It changes only where something is typed, and is said when the field is left: of the
 * frames that it was typed for, whatever is chosen by then. */
export function TextField({ id, label, held, frameIds, rows = 1, onSay, onNext }: Props) {
  const [typed, setTyped] = useState<string | null>(null);
  const draft = useRef<{ text: string; frameIds: number[] } | null>(null);
  const shared = held?.length === 1 ? (held[0]?.text ?? "") : "";
  const isMixed = (held?.length ?? 0) > 1;
  const say = useRef(onSay);
  say.current = onSay;
  const commit = () => {
    if (draft.current) say.current(draft.current.frameIds, draft.current.text.trim() || null);
    draft.current = null;
  };
  const type = (text: string) => {
    draft.current = { text, frameIds: draft.current?.frameIds ?? frameIds };
    setTyped(text);
  };
  // biome-ignore lint/correctness/useExhaustiveDependencies: what is typed stays until the answer is there
  useEffect(() => {
    if (!draft.current) setTyped(null);
  }, [held]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: for whenever it goes away
  useEffect(() => commit, []);
  const onKeyDown = (event: KeyboardEvent<HTMLElement>) => {
    if (event.key === "Escape") {
      event.stopPropagation();
      draft.current = null;
      setTyped(null);
      event.currentTarget.blur();
      goHome();
    } else if (event.key === "Enter" && (event.ctrlKey || event.metaKey || rows === 1)) {
      event.preventDefault();
      commit();
      if (event.ctrlKey || event.metaKey) onNext?.();
    }
  };
  const field = {
    id,
    "aria-label": label,
    value: typed ?? shared,
    placeholder: isMixed ? mixed(held ?? []) : "none",
    onKeyDown,
    onBlur: commit,
    className: `w-full rounded border bg-pit px-2 py-1 placeholder:text-ink3 ${
      isMixed && typed === null ? "border-dashed border-line" : "border-line"
    }`,
  };
  return (
    <div>
      {rows > 1 ? (
        <textarea {...field} rows={rows} onChange={(event) => type(event.target.value)} />
      ) : (
        <input {...field} autoComplete="off" onChange={(event) => type(event.target.value)} />
      )}
      <Filled text={typed ?? ""} frameId={frameIds[0]} />
      {isMixed && typed === null && (
        <ul className="flex flex-wrap gap-1 pt-1">
          {held
            ?.filter(({ text }) => text !== null)
            .slice(0, 3)
            .map(({ text, frames }) => (
              <li key={text} className="max-w-full">
                <button
                  type="button"
                  title={`Say this of all: ${text}`}
                  onClick={() => onSay(frameIds, text)}
                  className="block min-h-6 max-w-full truncate rounded border border-dashed border-line px-1.5 text-xs text-ink2 hover:text-ink"
                >
                  {text} · {frames}
                </button>
              </li>
            ))}
        </ul>
      )}
    </div>
  );
}

function mixed(held: HeldText[]): string {
  const texts = held.filter(({ text }) => text !== null).length;
  const empty = held.find(({ text }) => text === null)?.frames;
  return `mixed · ${texts > 1 ? `${texts} different` : count(frames(held), "frame")}${empty ? `, ${empty} empty` : ""}`;
}

function frames(held: HeldText[]): number {
  return held.filter(({ text }) => text !== null).reduce((sum, one) => sum + one.frames, 0);
}
