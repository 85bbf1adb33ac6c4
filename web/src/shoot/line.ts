/** The frames in view in the order on screen. Off the wall that is capture order. On it they stand as they were sorted when
 * that was asked for: a frame does not run away under the key that marks it. */

import { create } from "zustand";
import { useShoot } from "./store";

/** What a frame is sorted by; null: not known. */
export type Value = number | string | null;

interface Ordering {
  /** The wall is on screen. */
  onWall: boolean;
  /** Id of a column, and whether the last comes first. */
  by: string;
  down: boolean;
  /** What each frame was sorted by when it was asked for; null: capture order, one way or the other. */
  values: Map<number, Value> | null;
}

export const useOrdering = create<Ordering>(() => ({
  onWall: false,
  by: "capture",
  down: false,
  values: null,
}));

/** The frames in view in the order on screen, and the place of each. */
export interface Line {
  ids: number[];
  places: Map<number, number>;
}

let last: { visible: number[]; ordering: Ordering; line: Line } | null = null;

/** As it is now. */
export function line(): Line {
  const { visible, places } = useShoot.getState();
  const ordering = useOrdering.getState();
  const isPlain = !ordering.values && !ordering.down;
  if (!ordering.onWall || isPlain) return { ids: visible, places };
  if (last?.visible !== visible || last.ordering !== ordering) {
    const ids = sorted(visible, ordering);
    last = { visible, ordering, line: { ids, places: new Map(ids.map((id, place) => [id, place])) } };
  }
  return last.line;
}

/** The same, for what is drawn. */
export function useLine(): Line {
  useShoot((s) => s.visible);
  useOrdering();
  return line();
}

const letters = new Intl.Collator(undefined, { numeric: true, sensitivity: "base" });

/** What has no value comes last either way; frames of one value stay in capture order. */
function sorted(visible: number[], { values, down }: Ordering): number[] {
  if (!values) return visible.toReversed();
  const known = (id: number) => values.get(id) ?? null;
  const way = down ? -1 : 1;
  return [...visible].sort((a, b) => {
    const [one, other] = [known(a), known(b)];
    if (one === null || other === null) return one === other ? 0 : one === null ? 1 : -1;
    return (
      way *
      (typeof one === "number" && typeof other === "number"
        ? one - other
        : letters.compare(`${one}`, `${other}`))
    );
  });
}

/** Whether scenes and groups stand together. */
export function isByTime({ by }: { by: string }): boolean {
  return by === "capture";
}
