import type { RatingRule } from "../../api/client";
import { useShoot } from "../../shoot/store";
import { setFilter } from "../../shoot/view";
import { Chip } from "../../ui/controls";
import { FilterPopover } from "./FilterPopover";

const RULES: { rule: RatingRule; word: string }[] = [
  { rule: "at_least", word: "at least" },
  { rule: "exactly", word: "exactly" },
  { rule: "at_most", word: "at most" },
];

/** Filters by stars. */
export function RatingFilter() {
  const { ratingRule, stars } = useShoot((s) => s.filter);
  const ratings = useShoot((s) => s.view?.tally.ratings) ?? [];
  const word = RULES.find((r) => r.rule === ratingRule)?.word;
  const title = ratingRule === "unrated" ? "unrated" : word ? `${word} ${stars} ★` : "stars";
  return (
    <FilterPopover by="stars" chosen={title} title={title} on={ratingRule !== null} className="">
      <table>
        <tbody>
          {RULES.map(({ rule, word: text }) => (
            <tr key={rule}>
              <th scope="row" className="pr-3 text-left font-normal text-ink2">
                {text}
              </th>
              {[1, 2, 3, 4, 5].map((n) => (
                <td key={n} className="p-0.5">
                  <Chip
                    on={ratingRule === rule && stars === n}
                    aria-label={`${text} ${n} stars`}
                    onClick={() => setFilter({ ratingRule: rule, stars: n })}
                  >
                    {n} ★
                  </Chip>
                </td>
              ))}
            </tr>
          ))}
          <tr className="text-center text-xs text-ink2">
            <th scope="row" className="pr-3 text-left font-normal">
              frames
            </th>
            {[1, 2, 3, 4, 5].map((n) => (
              <td key={n}>{ratings[n] ?? 0}</td>
            ))}
          </tr>
        </tbody>
      </table>
      <div className="mt-2 flex gap-2">
        <Chip on={ratingRule === "unrated"} onClick={() => setFilter({ ratingRule: "unrated", stars: 0 })}>
          unrated {ratings[0] ?? 0}
        </Chip>
        <Chip on={ratingRule === null} onClick={() => setFilter({ ratingRule: null, stars: 0 })}>
          any
        </Chip>
      </div>
    </FilterPopover>
  );
}
