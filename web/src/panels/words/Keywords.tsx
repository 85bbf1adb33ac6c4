import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { type KeyboardEvent, useId, useState } from "react";
import { api, unwrap } from "../../api/client";
import { goHome } from "../../keys/home";
import { useShoot } from "../../shoot/store";
import { type CommonWords, type KeywordOffer, sayWords } from "../../shoot/words";
import { figure } from "../../ui/format";

/** The keywords of some frames: on all of them, or on some; and more to be typed, with what goes on from that. */
export function Keywords({ common, frameIds }: { common: CommonWords | undefined; frameIds: number[] }) {
  const add = (words: string[]) => sayWords(frameIds, { add_keywords: words });
  return (
    <div className="rounded border border-edge p-1.5">
      <ul className="flex flex-wrap gap-1" aria-label="Keywords of these frames">
        {common?.keywords.map(({ word, frames }) => (
          <li
            key={word}
            className={`flex max-w-full items-center rounded-full border pl-2 text-xs ${
              frames < common.frames ? "border-dashed border-line text-ink2" : "border-line text-ink"
            }`}
          >
            <span className="truncate py-0.5" title={word}>
              {word}
            </span>
            {frames < common.frames && (
              <button
                type="button"
                title={`On ${frames} of ${common.frames}: put it on all`}
                onClick={() => add([word])}
                className="ml-1 min-h-6 whitespace-nowrap underline decoration-dotted underline-offset-2"
              >
                {figure(frames)} of {figure(common.frames)}
                <span className="sr-only">: put {word} on all</span>
              </button>
            )}
            <button
              type="button"
              aria-label={`Take ${word} off`}
              title="Take it off"
              onClick={() => sayWords(frameIds, { remove_keywords: [word] })}
              className="size-6 hover:text-ink"
            >
              ×
            </button>
          </li>
        ))}
      </ul>
      <Adder onAdd={add} />
    </div>
  );
}

function Adder({ onAdd }: { onAdd: (words: string[]) => void }) {
  const shootId = useShoot((s) => s.shootId);
  const revision = useShoot((s) => s.revision);
  const [text, setText] = useState("");
  const [chosen, setChosen] = useState(-1);
  const list = useId();
  const { data } = useQuery({
    queryKey: ["keywords", shootId, text, revision],
    enabled: Boolean(text.trim()),
    placeholderData: keepPreviousData,
    queryFn: () =>
      api
        .GET("/api/shoots/{shoot_id}/keywords", { params: { path: { shoot_id: shootId }, query: { text } } })
        .then(unwrap),
  });
  const offers = (text.trim() && data) || [];
  const take = (words: string[]) => {
    const said = words.map((word) => word.trim()).filter(Boolean);
    if (said.length) onAdd(said);
    setText("");
    setChosen(-1);
  };
  const takeOffer = ({ word, above }: KeywordOffer, whole: boolean) =>
    take(whole ? [...above, word] : [word]);
  const onKeyDown = (event: KeyboardEvent<HTMLInputElement>) => {
    const one = offers[chosen];
    if (event.key === "ArrowDown" || event.key === "ArrowUp") {
      event.preventDefault();
      const step = event.key === "ArrowDown" ? 1 : -1;
      setChosen((before) => Math.max(-1, Math.min(offers.length - 1, before + step)));
    } else if (event.key === "Enter") {
      event.preventDefault();
      if (one) takeOffer(one, event.shiftKey);
      else take([text]);
    } else if (event.key === "Tab" && !event.shiftKey && text.trim() && offers[0]) {
      event.preventDefault();
      takeOffer(one ?? offers[0], false);
    } else if (event.key === "Escape") {
      event.stopPropagation();
      setText("");
      event.currentTarget.blur();
      goHome();
    }
  };
  return (
    <>
      <input
        role="combobox"
        aria-label="Add a keyword"
        aria-expanded={offers.length > 0}
        aria-controls={list}
        aria-activedescendant={chosen >= 0 ? `${list}-${chosen}` : undefined}
        autoComplete="off"
        placeholder="add …"
        value={text}
        onChange={(event) => {
          setText(event.target.value);
          setChosen(-1);
        }}
        // Half a word that nobody took is no keyword, and is not lost either: it stays in the field.
        onKeyDown={onKeyDown}
        onPaste={(event) => {
          const lines = event.clipboardData.getData("text").split(/\r?\n|\t|;/);
          if (lines.length < 2) return;
          event.preventDefault();
          take(lines);
        }}
        className="mt-1 mb-1 h-6 w-full bg-transparent px-1 placeholder:text-ink3"
      />
      <div id={list} role="listbox" aria-label="Keywords that go on from this">
        {offers.map((one, place) => (
          // biome-ignore lint/a11y/useKeyWithClickEvents: the arrows and Enter choose from the field
          // biome-ignore lint/a11y/useFocusableInteractive: the field keeps the focus
          <div
            key={[...one.above, one.word].join("\t")}
            id={`${list}-${place}`}
            role="option"
            aria-selected={place === chosen}
            onMouseDown={(event) => event.preventDefault()}
            onClick={(event) => takeOffer(one, event.shiftKey)}
            className={`flex min-h-6 cursor-default items-baseline gap-2 rounded px-1.5 ${place === chosen ? "bg-held" : "hover:bg-raised"}`}
          >
            <span>{one.word}</span>
            {one.above.length > 0 && (
              <span className="min-w-0 flex-1 truncate text-xs text-ink2">below {one.above.join(" › ")}</span>
            )}
            {one.frames > 0 && <span className="ml-auto text-xs text-ink2">{one.frames}</span>}
          </div>
        ))}
        {offers[chosen]?.above.length ? (
          <p className="px-1.5 pt-0.5 text-xs text-ink2">Shift Enter: with those above it</p>
        ) : null}
      </div>
    </>
  );
}
