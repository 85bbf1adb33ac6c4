import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { type KeyboardEvent, useEffect, useId, useRef, useState } from "react";
import { api, unwrap } from "../../api/client";
import type { components } from "../../api/schema";
import { useShoot } from "../../shoot/store";
import { setFilter } from "../../shoot/view";

type Typed = components["schemas"]["FilterTyped"];
type Completion = Typed["completions"][number];

/** The filter as a sentence, to be typed: what can stand at the cursor is offered, and what cannot be understood is
 * pointed at. What can be understood is shown at once. */
export function TypedFilter({ onDone }: { onDone: () => void }) {
  const shootId = useShoot((s) => s.shootId);
  const show = useShoot((s) => s.filter.show);
  const [text, setText] = useState(show);
  const [at, setAt] = useState(show.length);
  const [chosen, setChosen] = useState(-1);
  const field = useRef<HTMLInputElement>(null);
  const list = useId();
  const typing = useRef(false);
  // What is pressed beside it changes the sentence as well.
  useEffect(() => {
    if (!typing.current) setText(show);
    typing.current = false;
  }, [show]);
  const { data } = useQuery({
    queryKey: ["typed", shootId, text, at],
    placeholderData: keepPreviousData,
    queryFn: () =>
      api
        .GET("/api/shoots/{shoot_id}/filter", {
          params: { path: { shoot_id: shootId }, query: { text, at } },
        })
        .then(unwrap)
        .then((typed) => ({ ...typed, of: text })),
  });
  const now = data?.of === text ? data : undefined;
  useEffect(() => {
    if (!now?.parts || now.show === null || now.show === useShoot.getState().filter.show) return;
    if (!typing.current && text === useShoot.getState().filter.show) return;
    typing.current = true;
    setFilter({ show: now.show, parts: now.parts });
  }, [now, text]);
  const take = ({ start, end, phrase }: Completion) => {
    const open = phrase.indexOf("…");
    const put = open < 0 ? phrase : phrase.slice(0, open);
    const next = text.slice(0, start) + put + text.slice(end);
    typing.current = true;
    setText(next);
    setAt(start + put.length);
    setChosen(-1);
    requestAnimationFrame(() => field.current?.setSelectionRange(start + put.length, start + put.length));
  };
  const completions = now?.completions ?? [];
  const onKeyDown = (event: KeyboardEvent) => {
    const one = completions[chosen];
    if (event.key === "ArrowDown" || event.key === "ArrowUp") {
      event.preventDefault();
      const step = event.key === "ArrowDown" ? 1 : -1;
      setChosen((before) => Math.max(-1, Math.min(completions.length - 1, before + step)));
    } else if (event.key === "Tab" && !event.shiftKey && (one ?? completions[0]) && isWord(text, at)) {
      event.preventDefault();
      take(one ?? (completions[0] as Completion));
    } else if (event.key === "Enter") {
      event.preventDefault();
      if (one) take(one);
      else if (now?.parts) onDone();
    }
  };
  return (
    <div>
      <input
        ref={field}
        role="combobox"
        aria-label="Filter as a sentence"
        aria-expanded={completions.length > 0}
        aria-controls={list}
        aria-activedescendant={chosen >= 0 ? `${list}-${chosen}` : undefined}
        aria-invalid={Boolean(now?.problem)}
        autoComplete="off"
        spellCheck={false}
        placeholder="keepers, 3 stars or more, 50–105 mm, not labelled"
        value={text}
        onChange={(event) => {
          typing.current = true;
          setText(event.target.value);
          setAt(event.target.selectionStart ?? event.target.value.length);
          setChosen(-1);
        }}
        onSelect={(event) => setAt(event.currentTarget.selectionStart ?? 0)}
        onKeyDown={onKeyDown}
        className="h-8 w-full rounded border border-line bg-pit px-2 text-ink placeholder:text-ink3"
      />
      <output className="block min-h-5 pt-1 text-xs text-ink2" data-testid="typed-problem">
        {now?.problem ? (
          <Wrong text={text} {...now.problem} />
        ) : (
          "Each part after a comma; “or”, “not” within one"
        )}
      </output>
      <div
        id={list}
        role="listbox"
        aria-label="What can stand here"
        className="flex min-h-6 flex-wrap gap-1 pt-1"
      >
        {completions.map((one, place) => (
          // biome-ignore lint/a11y/useKeyWithClickEvents: the arrows and Enter choose from the field
          // biome-ignore lint/a11y/useFocusableInteractive: the field keeps the focus
          <span
            key={one.phrase}
            id={`${list}-${place}`}
            role="option"
            aria-selected={place === chosen}
            onMouseDown={(event) => event.preventDefault()}
            onClick={() => take(one)}
            className={`cursor-default rounded border px-1.5 text-xs leading-[22px] ${
              place === chosen ? "border-straw bg-held" : "border-edge"
            }`}
          >
            {one.phrase} {one.count !== null && <span className="text-ink2">{one.count}</span>}
          </span>
        ))}
      </div>
    </div>
  );
}

/** Whether something stands before the cursor that can be gone on with: with nothing there, Tab goes on to the next
 * control. */
function isWord(text: string, at: number): boolean {
  return /[^,;\s]\s*$/.test(text.slice(0, at));
}

type Problem = NonNullable<Typed["problem"]>;

/** The text with the place that is not understood marked, and why. */
function Wrong({ text, start, end, message }: Problem & { text: string }) {
  return (
    <>
      {text.slice(0, start)}
      <mark className="border-b-2 border-dotted border-straw bg-transparent text-ink">
        {text.slice(start, end) || " "}
      </mark>
      {text.slice(end)} · {message}
    </>
  );
}
