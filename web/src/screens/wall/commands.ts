/** The commands of the wall. */

import type { Command, Commands } from "../../keys/command";
import { PANELS } from "../../panels/commands";
import { FILTERS } from "../../panels/filter/commands";
import { PASSES } from "../../panels/passes/commands";
import { goToScreen } from "../../shoot/address";
import { ALIKE, type Likeness, selectAlike } from "../../shoot/alike";
import {
  decideCommands,
  type Ground,
  groupCommands,
  moveCommands,
  RUN_THROUGH,
  SECOND_WINDOW,
  TO_BENCH,
  TO_HANDOFF,
  TO_SYNC,
} from "../../shoot/commands";
import { activate, neighbour } from "../../shoot/moving";
import { stopPainting, togglePainting, usePaint } from "../../shoot/painting";
import {
  callSelectionBack,
  clearSelection,
  select,
  selectRange,
  toggleSelected,
} from "../../shoot/selecting";
import { putOnStage } from "../../shoot/stage";
import { useShoot } from "../../shoot/store";
import { changeSettings, DENSITIES, settings } from "../../ui/settings";
import { activeInSight, frameBelow } from "./sight";

const ground: Ground = {
  scope: () => {
    const { selection } = useShoot.getState();
    if (selection.size) return [...selection];
    const active = activeInSight();
    return active === null ? [] : [active];
  },
  active: activeInSight,
  step: neighbour,
  below: frameBelow,
  isSelecting: () => useShoot.getState().selection.size > 0,
  isComparing: () => false,
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

function selectScene() {
  const { active, frames, visible } = useShoot.getState();
  const scene = active === null ? undefined : frames.get(active)?.scene;
  select(visible.filter((id) => frames.get(id)?.scene === scene));
}

function invert() {
  const { selection, visible } = useShoot.getState();
  select(visible.filter((id) => !selection.has(id)));
}

function leaveOff() {
  if (usePaint.getState().on) stopPainting();
  else clearSelection();
}

/** After what they look for: no key is left that would say it. */
const ALIKE_KEYS: Record<Likeness, string[]> = {
  label: ["shift+w"],
  rating: ["shift+r"],
  decision: ["shift+d"],
  camera: [],
  people: [],
};

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
    id: "select-scene",
    title: "Select the scene",
    section: "Select",
    keys: ["ctrl+g"],
    run: selectScene,
  },
  {
    id: "select-others",
    title: "Select what is not selected",
    section: "Select",
    keys: ["ctrl+i"],
    run: invert,
  },
  ...(Object.keys(ALIKE) as Likeness[]).map(
    (by): Command => ({
      id: `select-alike-${by}`,
      title: `Select all with ${ALIKE[by]}`,
      section: "Select",
      keys: ALIKE_KEYS[by],
      run: () => void selectAlike(by),
    }),
  ),
  {
    id: "paint",
    title: "Paint: press the key of a mark, then click or drag over frames",
    section: "Select",
    keys: ["shift+c"],
    run: togglePainting,
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
    title: "Select nothing, or end painting",
    section: "Select",
    keys: ["escape"],
    run: leaveOff,
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

const SHOWING: Command = {
  id: "density",
  title: "Wall: dense, standard, table",
  section: "Look",
  keys: ["shift+v"],
  run: () => {
    const place = DENSITIES.indexOf(settings().wallDensity);
    changeSettings({ wallDensity: DENSITIES[(place + 1) % DENSITIES.length] });
  },
};

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
  TO_SYNC,
  PASSES,
];

export const WALL: Commands = [
  ...decideCommands(ground),
  ...moveCommands(ground),
  SECOND_WINDOW,
  RUN_THROUGH,
  ...PANELS,
  ...groupCommands(ground),
  ...SELECTING,
  SHOWING,
  ...FILTERS,
  ...GOING,
];
