/** What stands on the stage, beyond which frame is active and which frames were put there. */

import { create } from "zustand";

export type Layout = "group" | "two" | "one";
export type Overlay = "map" | "peaking" | "clipping";

export interface StageState {
  /** The bench is on screen. */
  open: boolean;
  layout: Layout;
  /** Taken off the stage, the last one last. */
  aside: number[];
  /** Rejects leave the stage as they are marked. */
  keptOnly: boolean;
  /** Two frames: the one that holds its place, the one beside it, and whether both stand in one spot. */
  holder: number | null;
  challenger: number | null;
  blink: boolean;
  overlays: Record<Overlay, boolean>;
  loupe: boolean;
  /** Pictures as if their files had no profile. */
  plain: boolean;
  /** The face table is wide. */
  wideTable: boolean;
  /** How many frames stand on the stage at once. */
  length: number;
  /** The active frame that was drawn last. */
  drawn: number | null;
}

export const useStage = create<StageState>(() => ({
  open: false,
  layout: "group",
  aside: [],
  keptOnly: false,
  holder: null,
  challenger: null,
  blink: false,
  overlays: { map: false, peaking: false, clipping: false },
  loupe: false,
  plain: false,
  wideTable: false,
  length: 1,
  drawn: null,
}));

export function toggleKeptOnly() {
  useStage.setState(({ keptOnly }) => ({ keptOnly: !keptOnly }));
}

export function toggleTable() {
  useStage.setState(({ wideTable }) => ({ wideTable: !wideTable }));
}

export function togglePlain() {
  useStage.setState(({ plain }) => ({ plain: !plain }));
}

export function toggleOverlay(overlay: Overlay) {
  useStage.setState(({ overlays }) => ({ overlays: { ...overlays, [overlay]: !overlays[overlay] } }));
}
