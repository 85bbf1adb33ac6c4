/** Whether the passes are on screen. */

import { create } from "zustand";

export const usePassesOpen = create<{ open: boolean }>(() => ({ open: false }));

export function openPasses() {
  usePassesOpen.setState({ open: true });
}
