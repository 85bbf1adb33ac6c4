/** How marks that were changed on both sides are settled: one by one, or by a rule. Without JSX. */

import type { components } from "../../api/schema";

export type SyncRow = components["schemas"]["SyncRow"];
export type Take = components["schemas"]["Take"];
type Field = SyncRow["field"];

/** What a property is called. */
export const FIELD_WORDS: Record<Field, string> = {
  decision: "decision",
  rating: "stars",
  label: "label",
  turn: "turn",
  caption: "caption",
  headline: "headline",
  keywords: "keywords",
  creator: "creator",
  copyright: "copyright",
  group: "group",
  point: "point",
  proposed: "proposal",
};

export function keyOfRow(row: Pick<SyncRow, "frame_id" | "field">): string {
  return `${row.frame_id} ${row.field}`;
}

export type Rule = (row: SyncRow) => Take;

/** The newer of both; where one has no date, it is left for the person. */
export const newest: Rule = ({ here_at, there_at }) => {
  if (!here_at || !there_at) return "later";
  return new Date(here_at) >= new Date(there_at) ? "ours" : "theirs";
};

export const all =
  (take: Take): Rule =>
  () =>
    take;

/** Stars as another program has them, labels as they are here; the rest is left for the person. */
export const starsFromThere: Rule = ({ field }) =>
  field === "rating" ? "theirs" : field === "label" ? "ours" : "later";

/** What every row is settled as once a rule has been used on all of them. */
export function settledBy(rows: SyncRow[], rule: Rule): Map<string, Take> {
  return new Map(rows.map((row) => [keyOfRow(row), rule(row)]));
}

/** How many marks of each kind, the most first: `stars 9 · labels 4`. */
export function countedInWords(rows: SyncRow[]): string {
  const counts = new Map<Field, number>();
  for (const { field } of rows) counts.set(field, (counts.get(field) ?? 0) + 1);
  return [...counts]
    .sort(([, a], [, b]) => b - a)
    .map(([field, n]) => `${FIELD_WORDS[field]} ${n}`)
    .join(" · ");
}
