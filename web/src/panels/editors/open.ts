/** Whether it is being asked which program frames are to be opened in. */

import { create } from "zustand";

export const useEditorsOpen = create<{ open: boolean }>(() => ({ open: false }));

export function askForEditor() {
  useEditorsOpen.setState({ open: true });
}
