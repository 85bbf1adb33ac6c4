/** What of the wall is in sight. A key acts on nothing that was scrolled away. */

import { useShoot } from "../../shoot/store";

interface Sight {
  has: (id: number) => boolean;
  bring: (id: number) => void;
}

let sight: Sight | null = null;

/** The wall says what can be seen of it, while it stands. */
export function setSight(now: Sight | null) {
  sight = now;
}

/** The active frame, if it is in sight. If not, it is brought there, and the next key may mean it. */
export function activeInSight(): number | null {
  const { active, frames } = useShoot.getState();
  if (active === null || !sight || sight.has(active)) return active;
  sight.bring(active);
  useShoot.setState({ lastAction: `nothing done: ${frames.get(active)?.name} was out of sight` });
  return null;
}
