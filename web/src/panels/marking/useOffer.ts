/** The frame that offers its marks to the pointer: the one under the mouse, or that a finger holds. */

import { create } from "zustand";

export const useOffer = create<{ id: number | null }>(() => ({ id: null }));

export function offer(id: number | null) {
  if (useOffer.getState().id !== id) useOffer.setState({ id });
}
