/** Which panels stand beside the pictures. Each of them leaves with one key. */

import { create } from "zustand";

interface Shown {
  spine: boolean;
  evidence: boolean;
  /** What the labels mean. */
  legend: boolean;
  /** What was done. */
  history: boolean;
  /** Caption, keywords and the rest. */
  words: boolean;
  /** Only the pictures: no panel at all. */
  bare: boolean;
}

export const usePanels = create<Shown>(() => ({
  spine: true,
  evidence: true,
  legend: false,
  history: false,
  words: false,
  bare: false,
}));

export function togglePanel(which: keyof Shown) {
  usePanels.setState({ [which]: !usePanels.getState()[which] });
}
