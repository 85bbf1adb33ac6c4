/** The end of a pass: back to what was left on the way, or what it did is shown. */

import { line } from "../line";
import { activate, groupNeighbour } from "../moving";
import { useShoot } from "../store";
import { latest } from "../underWay";
import { goesByFrames, isDone, leaves, passNow, useWalk } from "./store";
import { askedInGroup, noteSeen, tellServer } from "./walking";

const { getState: get, setState: set } = useWalk;

/** Whether nothing comes after the active frame any more. */
export function isLast(byGroup: boolean): boolean {
  const pass = passNow();
  const { active, frames } = useShoot.getState();
  if (!pass || active === null) return false;
  if (byGroup) return groupNeighbour(1) === null;
  const { ids, places } = line();
  return !ids.slice((places.get(active) ?? 0) + 1).some((id) => {
    const frame = latest(id) ?? frames.get(id);
    return get().places.has(id) && frame && !(leaves(pass, frame) && id !== active);
  });
}

/** How many were done with when the end was reached last: who comes round without having done any is done. */
let doneAtEnd = -1;

/** The end was reached: back to what is left, or what was done is shown. */
export function reachEnd() {
  const { walk } = get();
  const { active, frames } = useShoot.getState();
  if (!walk || active === null) return;
  const group = frames.get(active)?.group;
  noteSeen(goesByFrames(walk.definition) || group === undefined ? [active] : askedInGroup(group));
  const left = walk.frames.filter((id) => {
    const frame = latest(id);
    return (
      frame &&
      frame.place === "shoot" &&
      !leaves(walk.definition, frame) &&
      !isDone(walk.definition, frame, get().seen)
    );
  });
  const done = walk.frames.length - left.length;
  const { places } = useShoot.getState();
  const first = left.find((id) => places.has(id) && id !== active);
  if (first !== undefined && done !== doneAtEnd) {
    doneAtEnd = done;
    activate(first);
    useShoot.setState({ lastAction: `${left.length} left on the way: here is the first of them` });
    return;
  }
  doneAtEnd = -1;
  set({ ended: true });
  useShoot.setState({ lastAction: null });
  void tellServer(true);
}

/** From the end back to where one was. */
export function goBackIn() {
  set({ ended: false });
  void tellServer(false);
}
