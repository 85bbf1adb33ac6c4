/** The commands of the wall. */

import type { Command } from "../../keys/command";
import { PANELS } from "../../panels/commands";
import { FILTERS } from "../../panels/filter/commands";
import { goToScreen } from "../../shoot/address";
import {
  decideCommands,
  type Ground,
  groupCommands,
  moveCommands,
  SECOND_WINDOW,
  TO_BENCH,
  TO_HANDOFF,
} from "../../shoot/commands";
import { activate, neighbour } from "../../shoot/moving";
import {
  callSelectionBack,
  clearSelection,
  select,
  selectRange,
  toggleSelected,
} from "../../shoot/selecting";
import { putOnStage } from "../../shoot/stage";
import { useShoot } from "../../shoot/store";
import { activeInSight } from "./sight";

const ground: Ground = {
  scope: () => {
    const { selection } = useShoot.getState();
    if (selection.size) return [...selection];
    const active = activeInSight();
    return active === null ? [] : [active];
  },
  active: activeInSight,
  step: neighbour,
  isSelecting: () => useShoot.getState().selection.size > 0,
};

function extend(to: number | null, at: number) {
  if (to === null) return;
  selectRange(to);
  activate(to, at);
}

function selectGroup() {
  const { active, frames, visible } = useShoot.getState();
  const group = active === null ? undefined : frames.get(active)?.group;
  select(visible.filter((id) => frames.get(id)?.group === group));
}

function selectionToStage() {
  putOnStage([...useShoot.getState().selection]);
  goToScreen("bench");
}

function toggleActive() {
  const { active, selection } = useShoot.getState();
  const seen = activeInSight();
  if (seen === null) return;
  if (selection.size) toggleSelected(seen);
  else if (active !== null) select([active]);
}

const SELECTING: Command[] = [
  {
    id: "select-frame",
    title: "Select the frame, or take it out",
    section: "Select",
    keys: [" "],
    run: toggleActive,
  },
  {
    id: "extend-next",
    title: "Selection up to the next frame",
    section: "Select",
    keys: ["shift+arrowright"],
    repeats: true,
    run: (at) => extend(neighbour(1), at),
  },
  {
    id: "extend-previous",
    title: "Selection up to the previous frame",
    section: "Select",
    keys: ["shift+arrowleft"],
    repeats: true,
    run: (at) => extend(neighbour(-1), at),
  },
  {
    id: "select-group",
    title: "Select the group",
    section: "Select",
    keys: ["g"],
    run: selectGroup,
  },
  {
    id: "select-all",
    title: "Select all in view",
    section: "Select",
    keys: ["ctrl+a"],
    run: () => select(useShoot.getState().visible),
  },
  {
    id: "select-none",
    title: "Select nothing",
    section: "Select",
    keys: ["escape"],
    run: clearSelection,
  },
  {
    id: "select-again",
    title: "Select again what was selected when the wall was left",
    section: "Select",
    keys: ["shift+g"],
    run: callSelectionBack,
  },
  {
    id: "selection-to-stage",
    title: "The selected frames on the stage",
    section: "Select",
    keys: ["shift+b"],
    run: selectionToStage,
  },
];

const GOING: Command[] = [
  {
    id: "to-bench",
    title: "To the bench",
    section: "Go",
    keys: ["enter"],
    run: () => goToScreen("bench"),
  },
  TO_BENCH,
  TO_HANDOFF,
];

export const WALL: Command[] = [
  ...decideCommands(ground),
  ...moveCommands(ground),
  SECOND_WINDOW,
  ...PANELS,
  ...groupCommands(ground),
  ...SELECTING,
  ...FILTERS,
  ...GOING,
];
