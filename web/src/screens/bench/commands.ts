/** The commands of the bench. */

import type { Command, Commands } from "../../keys/command";
import { PANELS } from "../../panels/commands";
import { FILTERS } from "../../panels/filter/commands";
import { AT_ONCE, PASSES } from "../../panels/passes/commands";
import { togglePanel } from "../../panels/shown";
import { resetOffsets } from "../../pictures/aimStore";
import { goToScreen } from "../../shoot/address";
import {
  decideCommands,
  type Ground,
  groupCommands,
  moveCommands,
  RUN_THROUGH,
  SECOND_WINDOW,
  TO_HANDOFF,
  TO_SYNC,
  TO_WALL,
} from "../../shoot/commands";
import { labelCoverSet } from "../../shoot/coverSet";
import { mark } from "../../shoot/marking";
import { groupNeighbour } from "../../shoot/moving";
import { changeStay, endRunThrough, useRunThrough } from "../../shoot/runThrough";
import { useShoot } from "../../shoot/store";
import { passNow } from "../../shoot/walk/store";
import { leaveWalk } from "../../shoot/walk/walking";
import { changeSettings, settings } from "../../ui/settings";
import { stageNeighbour } from "./compared";
import { toggleKeptOnly, toggleOverlay, togglePlain, toggleTable, useStage } from "./stageStore";
import { flip, goRun, layAside, putBack, setLayout, showGroup, swap, takePlace } from "./staging";
import { pointOut, stepFace, zoomTo } from "./zooming";

const active = () => useShoot.getState().active;

/** The active frame always stands on the stage; a selection lives on the wall. */
const ground: Ground = {
  scope: () => {
    const id = active();
    return id === null ? [] : [id];
  },
  active,
  step: stageNeighbour,
  isSelecting: () => false,
  below: groupNeighbour,
  isComparing: () => useStage.getState().layout === "two",
  layAside,
};

function setAside(rejects: boolean, at: number) {
  const id = active();
  if (id === null) return;
  if (rejects) mark({ decision: "reject" }, at, [id]);
  layAside(id);
}

const RUNS: Command[] = [
  {
    id: "next-run",
    title: "Long group: next run of frames",
    section: "Move",
    keys: ["pagedown"],
    repeats: true,
    run: (at) => goRun(1, at),
  },
  {
    id: "previous-run",
    title: "Long group: previous run",
    section: "Move",
    keys: ["pageup"],
    repeats: true,
    run: (at) => goRun(-1, at),
  },
  {
    id: "next-face",
    title: "Next face of this frame, close up",
    section: "Move",
    keys: ["shift+arrowright"],
    repeats: true,
    run: (at) => stepFace(1, at),
  },
  {
    id: "previous-face",
    title: "Previous face",
    section: "Move",
    keys: ["shift+arrowleft"],
    repeats: true,
    run: (at) => stepFace(-1, at),
  },
];

const STAGE: Command[] = [
  {
    id: "layout-group",
    title: "The whole group on the stage",
    section: "Stage",
    keys: ["g"],
    run: showGroup,
  },
  {
    id: "layout-two",
    title: "Two frames: one holds its place, the arrows bring challengers",
    section: "Stage",
    keys: ["i"],
    run: () => setLayout("two"),
  },
  {
    id: "layout-one",
    title: "One frame",
    section: "Stage",
    keys: ["o"],
    run: () => setLayout("one"),
  },
  {
    id: "flip",
    title: "Flip two frames in the same spot",
    section: "Stage",
    keys: ["f"],
    run: flip,
  },
  {
    id: "swap",
    title: "Two frames: swap sides",
    section: "Stage",
    keys: ["y"],
    run: swap,
  },
  {
    id: "take-place",
    title: "Two frames: the challenger takes the place",
    section: "Stage",
    keys: ["="],
    run: takePlace,
  },
  {
    id: "lay-aside",
    title: "Take the frame off the stage",
    section: "Stage",
    keys: ["l"],
    run: (at) => setAside(false, at),
  },
  {
    id: "reject-aside",
    title: "Reject, and off the stage",
    section: "Stage",
    keys: ["c"],
    run: (at) => setAside(true, at),
  },
  {
    id: "put-back",
    title: "Put back what left the stage last",
    section: "Stage",
    keys: ["backspace"],
    run: putBack,
  },
  {
    id: "kept-only",
    title: "Only undecided and kept on the stage: on or off",
    section: "Stage",
    keys: ["/"],
    run: toggleKeptOnly,
  },
];

const STAYS: Command[] = [
  {
    id: "stay-longer",
    title: "Run through: each frame stays a second longer",
    section: "Look",
    keys: [">"],
    run: () => changeStay(1),
  },
  {
    id: "stay-shorter",
    title: "Run through: a second shorter; less than one: by key",
    section: "Look",
    keys: ["<"],
    run: () => changeStay(-1),
  },
];

const LOOK: Command[] = [
  {
    id: "zoom",
    title: "100 % at the pointer or the subject, and back",
    section: "Look",
    keys: [" "],
    run: (at) => zoomTo(1, at),
  },
  {
    id: "zoom-more",
    title: "200 %, and back",
    section: "Look",
    keys: ["j"],
    run: (at) => zoomTo(2, at),
  },
  {
    id: "point",
    title: "This is what matters: the point under the pointer, in the whole group; there again: take it back",
    section: "Look",
    keys: ["x"],
    run: pointOut,
  },
  {
    id: "follow",
    title: "The zoom follows the subject from frame to frame: on or off",
    section: "Look",
    keys: [";"],
    run: () => changeSettings({ follow: !settings().follow }),
  },
  {
    id: "reset-offsets",
    title: "Undo all moving about",
    section: "Look",
    keys: ["'", "shift+o"],
    run: resetOffsets,
  },
  {
    id: "loupe",
    title: "Loupe under the pointer, while held",
    section: "Look",
    keys: ["b"],
    run: () => useStage.setState({ loupe: true }),
    onEnd: () => useStage.setState({ loupe: false }),
  },
  {
    id: "peaking",
    title: "Light up edges in focus",
    section: "Look",
    keys: ["shift+f"],
    run: () => toggleOverlay("peaking"),
  },
  {
    id: "clipping",
    title: "Hatch what is burnt or blocked",
    section: "Look",
    keys: ["-", "shift+p"],
    run: () => toggleOverlay("clipping"),
  },
  {
    id: "blur-map",
    title: "Blur map over the picture: σ in px by tiles, faces, subject",
    section: "Look",
    keys: ["k"],
    run: () => toggleOverlay("map"),
  },
  {
    id: "face-table",
    title: "Face table: wide or narrow",
    section: "Look",
    keys: [","],
    run: toggleTable,
  },
  SECOND_WINDOW,
  RUN_THROUGH,
  ...STAYS,
  ...PANELS,
  {
    id: "capture",
    title: "Capture data over the picture: show or hide",
    section: "Look",
    keys: ["8"],
    run: () => changeSettings({ capture: !settings().capture }),
  },
  {
    id: "plain",
    title: "Without the profiles of the files: on or off",
    section: "Look",
    keys: ["9"],
    run: togglePlain,
  },
  {
    id: "evidence",
    title: "Evidence: show or hide",
    section: "Look",
    keys: ["]"],
    run: () => togglePanel("evidence"),
  },
];

const COVER: Command = {
  id: "cover-set",
  title: "Label the fewest frames in which everybody is well shown: Combine",
  section: "Group",
  keys: ["shift+e"],
  run: (at) => void labelCoverSet(active(), at),
};

const GOING: Command[] = [
  {
    id: "to-wall",
    title: "To the wall",
    section: "Go",
    keys: ["enter"],
    run: () => goToScreen("wall"),
  },
  {
    id: "back",
    title: "Back: out of the pass, or to the wall",
    section: "Go",
    keys: ["escape"],
    run: () => {
      if (useRunThrough.getState().on) endRunThrough();
      else if (passNow()) void leaveWalk();
      else goToScreen("wall");
    },
  },
  TO_WALL,
  TO_HANDOFF,
  TO_SYNC,
  PASSES,
];

export const BENCH: Commands = [
  ...decideCommands(ground),
  ...moveCommands(ground),
  ...RUNS,
  ...STAGE,
  ...LOOK,
  ...groupCommands(ground),
  COVER,
  AT_ONCE,
  ...FILTERS,
  ...GOING,
];
