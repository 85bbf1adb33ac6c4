import { asksFor, type Filter } from "../../shoot/filter";
import { useShoot } from "../../shoot/store";
import { toggleFilterPart } from "../../shoot/view";
import { Chip } from "../../ui/controls";
import { LabelSign } from "../labels/LabelSign";
import { Histogram, phraseOf, rangeOf } from "./Histogram";
import type { Facet } from "./useFacets";

/** What can be asked of one facet: words and values to press, figures to drag over. */
export function FacetEditor({ facet }: { facet: Facet }) {
  const filter = useShoot((s) => s.filter);
  if (facet.facet === "name") return <p className="text-ink2">Type it above: name TMN_01*</p>;
  if (!facet.figures) return <Words facet={facet} filter={filter} />;
  const part = filter.parts.find((one) => one.facet === facet.facet && !one.negated);
  const put = (phrase: string) => phrase && toggleFilterPart(facet.facet, facet.title, phrase, true);
  return (
    <Histogram
      facet={facet}
      range={part?.words.length === 1 ? rangeOf(facet, part.words[0]) : null}
      onRange={(range) => {
        const phrase = phraseOf(facet, range);
        if (part?.words.join() !== phrase) put(phrase);
      }}
    />
  );
}

function Words({ facet, filter }: { facet: Facet; filter: Filter }) {
  if (!facet.values.length) return <p className="text-ink2">No frame here says it.</p>;
  return (
    <div className="flex max-h-60 flex-wrap gap-1.5 overflow-y-auto">
      {(facet.facet === "rating" ? withStars(facet) : facet.values).map(({ phrase, count }) => (
        <Chip
          key={phrase}
          on={asksFor(filter, facet.facet, phrase)}
          onClick={() => toggleFilterPart(facet.facet, facet.title, phrase)}
        >
          {phrase.startsWith("label ") && <LabelSign named={unnamed(phrase)} />}
          {unnamed(phrase)} <span className="text-ink2">{count}</span>
        </Chip>
      ))}
    </div>
  );
}

/** A label without the word before it. */
function unnamed(phrase: string): string {
  return phrase.replace(/^label "?(.*?)"?$/, "$1").replaceAll('""', '"');
}

/** Stars can be asked for exactly, at least and at most. */
function withStars({ values }: Facet): { phrase: string; count: number }[] {
  const sum = (from: number, to: number) =>
    values.slice(from, to + 1).reduce((all, { count }) => all + count, 0);
  const last = values.length - 1;
  const stars = (n: number) => (n === 1 ? "1 star" : `${n} stars`);
  const middle = Array.from({ length: last - 1 }, (_, at) => at + 1);
  return [
    ...values,
    ...middle.map((n) => ({ phrase: `${stars(n)} or more`, count: sum(n, last) })),
    ...middle.slice(1).map((n) => ({ phrase: `${stars(n)} or fewer`, count: sum(1, n) })),
  ];
}
