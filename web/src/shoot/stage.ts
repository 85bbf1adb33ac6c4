/** Frames of any groups that were put on the stage together. */

import { create } from "zustand";
import { activate } from "./moving";
import { useShoot } from "./store";

/** chosen: null where the stage shows the group of the active frame. */
export const useChosen = create<{ chosen: number[] | null }>(() => ({ chosen: null }));

/** Puts frames on the stage; none or null: back to the group. */
export function putOnStage(ids: number[] | null) {
  const chosen = ids?.length ? ids : null;
  useChosen.setState({ chosen });
  const { active } = useShoot.getState();
  if (chosen && (active === null || !chosen.includes(active))) activate(chosen[0] ?? null);
}
