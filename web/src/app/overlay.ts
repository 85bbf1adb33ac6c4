/** What is open over the screen. */

import { create } from "zustand";

export const useOverlay = create<{ keys: boolean }>(() => ({ keys: false }));

/** Opens or closes the list of keys. */
export function showKeys(keys: boolean) {
  useOverlay.setState({ keys });
}
