/** The frames in view in the order on screen. Off the wall that is capture order, or that of the pass
 * one is in. On it they stand as they were sorted when
 * that was asked for: a frame does not run away under the key that marks it. */

import { create } from "zustand";
import { useShoot } from "./store";
import { useWalk } from "./walk/store";

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

let last: { visible: number[]; by: unknown; line: Line } | null = null;

/** As it is now. */
export function line(): Line {
  const { visible, places } = useShoot.getState();
  const ordering = useOrdering.getState();
  const { walk, places: inWalk } = useWalk.getState();
  const isPlain = !ordering.values && !ordering.down;
  if (walk?.definition.warned_first) {
    const place = (id: number) => inWalk.get(id) ?? 0;
    return arranged(walk, () => [...visible].sort((a, b) => place(a) - place(b)));
  }
  if (!ordering.onWall || isPlain) return { ids: visible, places };
  return arranged(ordering, () => sorted(visible, ordering));
}

/** Frames in view in the order in which the wall shows them, whether it is on screen or not. */
export function inWallOrder(ids: number[]): number[] {
  const ordering = useOrdering.getState();
  return ordering.values || ordering.down ? sorted(ids, ordering) : ids;
}

/** by: what the order rests on; it is worked out anew where that is another. */
function arranged(by: unknown, sort: () => number[]): Line {
  const { visible } = useShoot.getState();
  if (last?.visible !== visible || last.by !== by) {
    const ids = sort();
    last = { visible, by, line: { ids, places: new Map(ids.map((id, place) => [id, place])) } };
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
