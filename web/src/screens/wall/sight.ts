/** What of the wall is in sight. A key acts on nothing that was scrolled away. */

import { create } from "zustand";
import { groupNeighbour } from "../../shoot/moving";
import { useShoot } from "../../shoot/store";

interface Sight {
  has: (id: number) => boolean;
  bring: (id: number) => void;
  /** The frame below (+1) or above (−1) the active one; undefined where groups stand together. */
  below?: (by: 1 | -1) => number | null | undefined;
}

let sight: Sight | null = null;

/** Whether the active frame is in sight, for what is said of it. */
export const useActiveSeen = create<{ seen: boolean }>(() => ({ seen: true }));

/** The wall says what can be seen of it, while it stands. */
export function setSight(now: Sight | null) {
  sight = now;
  lookAgain();
}

/** The wall was scrolled, or another frame is active. */
export function lookAgain() {
  const seen = isSeen(useShoot.getState().active);
  if (seen !== useActiveSeen.getState().seen) useActiveSeen.setState({ seen });
}

/** Where the arrows up and down lead: to another group, where groups stand together, else to another row. */
export function frameBelow(by: 1 | -1): number | null {
  const below = sight?.below?.(by);
  return below === undefined ? groupNeighbour(by) : below;
}

function isSeen(active: number | null): boolean {
  return active === null || !sight || sight.has(active);
}

/** The active frame, if it is in sight. If not, it is brought there, and the next key may mean it. */
export function activeInSight(): number | null {
  const { active, frames } = useShoot.getState();
  if (active === null || isSeen(active)) return active;
  sight?.bring(active);
  useShoot.setState({ lastAction: `nothing done: ${frames.get(active)?.name} was out of sight` });
  return null;
}
