/** Which mark an answer becomes. Without JSX. */

import type { components } from "../../api/schema";

type Taken = components["schemas"]["AnswerTaken"];

export type As = "nothing" | "label" | "keep" | "reject" | "stars";

export const LIKED: { as: As; title: string }[] = [
  { as: "label", title: "a label" },
  { as: "stars", title: "5 stars" },
  { as: "keep", title: "kept" },
  { as: "nothing", title: "no mark" },
];
export const REFUSED: { as: As; title: string }[] = [
  { as: "nothing", title: "no mark" },
  { as: "reject", title: "rejected" },
];

export function asMark(as: As, label: string): NonNullable<Taken["liked"]> | null {
  switch (as) {
    case "label":
      return { field: "label", value: label };
    case "keep":
    case "reject":
      return { field: "decision", value: as };
    case "stars":
      return { field: "rating", value: 5 };
    default:
      return null;
  }
}
