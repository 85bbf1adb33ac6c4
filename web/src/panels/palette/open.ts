/** Whether the palette is open. */

import { create } from "zustand";

export const usePalette = create<{ open: boolean }>(() => ({ open: false }));

export function openPalette() {
  usePalette.setState({ open: true });
}

export function closePalette() {
  usePalette.setState({ open: false });
}
