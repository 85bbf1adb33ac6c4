import { Slider } from "radix-ui";
import { useState } from "react";
import type { Facet } from "./useFacets";

interface Props {
  facet: Facet;
  /** The bars that are asked for, first and last; null: none. */
  range: [number, number] | null;
  onRange: (range: [number, number]) => void;
}

/** The figures of the shoot as bars; two handles are dragged over them, or moved by the arrows. */
export function Histogram({ facet, range, onRange }: Props) {
  const { values, figures, title } = facet;
  const last = values.length - 1;
  const [dragged, setDragged] = useState<[number, number] | null>(null);
  const [from, to] = dragged ?? range ?? [0, last];
  const most = Math.max(1, ...values.map(({ count }) => count));
  if (!figures || last < 0) return <p className="text-ink2">No frame here says it.</p>;
  const on = dragged !== null || range !== null;
  return (
    <div>
      <p className="flex justify-between pb-2 text-ink2">
        <span>{phraseOf(facet, [from, to])}</span>
        <span>{values.slice(from, to + 1).reduce((sum, { count }) => sum + count, 0)}</span>
      </p>
      <div className="flex h-14 items-end gap-px px-1" aria-hidden="true">
        {values.map(({ phrase, count }, at) => (
          <span
            key={phrase}
            title={`${phrase}: ${count}`}
            className={`min-h-px flex-1 ${on && at >= from && at <= to ? "bg-straw" : "bg-ink3"}`}
            style={{ height: `${(100 * count) / most}%` }}
          />
        ))}
      </div>
      <Slider.Root
        min={0}
        max={Math.max(1, last)}
        value={[from, to]}
        onValueChange={([low = 0, high = last]) => setDragged([low, Math.min(high, last)])}
        onValueCommit={([low = 0, high = last]) => {
          setDragged(null);
          onRange([low, Math.min(high, last)]);
        }}
        className="relative flex h-6 w-full touch-none items-center"
      >
        <Slider.Track className="relative h-1 w-full rounded-full bg-line">
          <Slider.Range className="absolute h-full rounded-full bg-straw" />
        </Slider.Track>
        <Slider.Thumb aria-label={`${title}, from`} className="block size-3.5 rounded-full bg-straw" />
        <Slider.Thumb aria-label={`${title}, to`} className="block size-3.5 rounded-full bg-straw" />
      </Slider.Root>
      <p className="flex justify-between text-xs text-ink2">
        <span>{values[0]?.ends?.[0]}</span>
        <span>{values[last]?.ends?.[1]}</span>
      </p>
    </div>
  );
}

/** A range of bars as a phrase. */
export function phraseOf({ figures, values }: Facet, [from, to]: [number, number]): string {
  const low = values[from]?.ends?.[0];
  const high = values[to]?.ends?.[1];
  if (!figures || low === undefined || high === undefined) return "";
  const { before, between, after } = figures;
  return before + (low === high ? low : low + between + high) + after;
}

/** The bars that a phrase asks for, in part or as a whole. */
export function rangeOf(facet: Facet, phrase: string | undefined): [number, number] | null {
  if (!phrase || !facet.figures) return null;
  const { before, between, after } = facet.figures;
  const figures = phrase.slice(before.length, after ? -after.length : undefined).split(between);
  const [low, high] = [figureOf(figures[0]), figureOf(figures.at(-1))];
  const from = facet.values.findIndex(({ ends }) => figureOf(ends?.[1]) >= low);
  const to = facet.values.findLastIndex(({ ends }) => figureOf(ends?.[0]) <= high);
  return from < 0 || to < from ? null : [from, to];
}

/** What a figure in a phrase stands for: 85, 1/200, 17:05, 2026-10-17 17:05. */
function figureOf(text: string | undefined): number {
  if (!text) return Number.NaN;
  const [over, under] = text.split("/").map(Number);
  if (under && over !== undefined) return over / under;
  if (/^\d+:\d+$/.test(text)) return Date.parse(`1970-01-01T${text}Z`);
  return /^\d{4}-/.test(text) ? Date.parse(text.replace(" ", "T")) : Number(text);
}
