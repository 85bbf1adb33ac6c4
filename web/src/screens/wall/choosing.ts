/** What a press on a frame of the wall does. */

import type { MouseEvent } from "react";
import { goToScreen } from "../../shoot/address";
import { activate } from "../../shoot/moving";
import { usePaint } from "../../shoot/painting";
import { clearSelection, selectRange, toggleSelected } from "../../shoot/selecting";
import { useShoot } from "../../shoot/store";

/** touch: by a finger, which selects more once something is selected. */
export function choose(event: MouseEvent, id: number, touch: boolean) {
  if (usePaint.getState().on) return;
  const isSelecting = touch && useShoot.getState().selection.size > 0;
  if (event.shiftKey) selectRange(id);
  else if (event.ctrlKey || event.metaKey || isSelecting) toggleSelected(id);
  else clearSelection();
  activate(id, event.timeStamp);
}

export function openBench() {
  goToScreen("bench");
}
