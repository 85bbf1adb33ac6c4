/** Frames in words, for who hears the page. */

import type { Frame } from "../api/client";
import { count } from "../ui/format";
import { DECISION_WORDS } from "../ui/marks";
import { WARNING_WORDS } from "../ui/warnings";
import { labelOf } from "./labels";

/** Its name, its marks, what the evidence warns of. */
export function frameInWords(frame: Frame): string {
  return [
    frame.name,
    DECISION_WORDS[frame.decision],
    count(frame.rating, "star"),
    frame.label && `label ${labelOf(frame.label)?.name ?? frame.label}`,
    frame.proposed && `proposed by ${frame.proposed}`,
    ...frame.warnings.map((warning) => WARNING_WORDS[warning]),
    frame.original !== null ? "edited file" : frame.edited && "edited",
    frame.problem,
  ]
    .filter(Boolean)
    .join(", ");
}
