/** What frames have in common, in words. */

import type { Frame } from "../api/client";
import { DECISION_WORDS } from "../ui/marks";
import { labelId, labelOf } from "./labels";
import type { ShootState } from "./store";

/** Of a selection: `all kept`, `3 stars`, `label Retouch`; empty where they differ in everything. */
export function commonInWords({ selection, frames }: ShootState): string {
  const chosen = [...selection].map((id) => frames.get(id)).filter((frame) => frame !== undefined);
  const [first] = chosen;
  if (!first || chosen.length < 2) return "";
  const same = <T>(of: (frame: Frame) => T) => chosen.every((frame) => of(frame) === of(first));
  const label = labelId(first.label);
  return [
    same(({ decision }) => decision) && `all ${DECISION_WORDS[first.decision]}`,
    same(({ rating }) => rating) && first.rating > 0 && `${first.rating} ★`,
    label !== null && same((frame) => labelId(frame.label)) && (labelOf(label)?.name ?? label),
    same(({ group }) => group) && "one group",
  ]
    .filter(Boolean)
    .join(" · ");
}
