/** Every command there is, with its default key. */

import type { Decision } from "../api/client";
import {
  challenge,
  choose,
  flip,
  layAside,
  putBack,
  resetOffsets,
  setFollow,
  setLayout,
  stageNeighbour,
  swap,
  takePlace,
  toggleKeptOnly,
  toggleOverlay,
  useStage,
} from "../bench/stageStore";
import { nextSurround } from "../parts/surround";
import { regroup } from "../shoot/grouping";
import { acceptLead, mark, redoMark, undoMark } from "../shoot/marking";
import {
  activate,
  clearSelection,
  groupNeighbour,
  neighbour,
  nextOpenGroup,
  nextUndecided,
  sceneNeighbour,
  select,
  selectRange,
} from "../shoot/moving";
import { setFilter, setGoOn, toggleDecision, toggleFilter, useShoot } from "../shoot/store";

export type Screen = "bench" | "wall" | "handoff";

export interface Command {
  id: string;
  title: string;
  section: "Decide" | "Rate" | "Move" | "Stage" | "Look" | "Group" | "Select" | "Filter" | "Go";
  /** Keys as `event.key` in lower case, with Ctrl+, Alt+, Shift+ before it. The first is shown. */
  keys: string[];
  screens: Screen[];
  run: (at: number, go: (screen: Screen) => void) => void;
  /** Called when the key is let go of, where it is held. */
  end?: () => void;
}

/** Asks the stage to show a point of the active picture, px of the full size, at 100 %. */
export function showPoint(point: { x: number; y: number }) {
  window.dispatchEvent(new CustomEvent("winnow:show-point", { detail: point }));
}

/** Raised by commands that only one screen can carry out; that screen listens. */
export function shout(what: string) {
  window.dispatchEvent(new CustomEvent(`winnow:${what}`));
}

/** The frame that a step leads to: on the bench over what left the stage. */
function step(by: 1 | -1): number | null {
  return useStage.getState().open ? stageNeighbour(by) : neighbour(by);
}

function goTo(id: number | null, at: number) {
  if (id !== null && useStage.getState().open) challenge(id);
  activate(id, at);
}

function active(): number | null {
  return useShoot.getState().active;
}

const PICTURES: Screen[] = ["bench", "wall"];
const EVERYWHERE: Screen[] = ["bench", "wall", "handoff"];

function decide(decision: Decision, at: number) {
  const { selection, goOn } = useShoot.getState();
  const next = step(1);
  mark({ decision }, at);
  const leaves = decision === "undecided";
  if (!selection.size && (goOn || leaves)) goTo(next, at);
}

function rate(rating: number, at: number) {
  const { selection, goOn } = useShoot.getState();
  const next = step(1);
  mark({ rating }, at);
  if (!selection.size && goOn && rating > 0) goTo(next, at);
}

function extend(to: number | null, at: number) {
  if (to === null) return;
  selectRange(to);
  activate(to, at);
}

function atLeast(stars: number) {
  const { filter } = useShoot.getState();
  const same = filter.ratingRule === "at_least" && filter.stars === stars;
  setFilter(same ? { ratingRule: null, stars: 0 } : { ratingRule: "at_least", stars });
}

const stars = [1, 2, 3, 4, 5];

export const COMMANDS: Command[] = [
  {
    id: "accept",
    title: "Accept (pick)",
    section: "Decide",
    keys: ["a"],
    screens: PICTURES,
    run: (at) => decide("pick", at),
  },
  {
    id: "leave",
    title: "Leave undecided, go on",
    section: "Decide",
    keys: ["s"],
    screens: PICTURES,
    run: (at) => decide("undecided", at),
  },
  {
    id: "discard",
    title: "Discard (reject)",
    section: "Decide",
    keys: ["d"],
    screens: PICTURES,
    run: (at) => decide("reject", at),
  },
  {
    id: "undo",
    title: "Undo the last mark",
    section: "Decide",
    keys: ["z", "ctrl+z"],
    screens: EVERYWHERE,
    run: undoMark,
  },
  {
    id: "redo",
    title: "Redo",
    section: "Decide",
    keys: ["x", "ctrl+shift+z", "ctrl+y"],
    screens: EVERYWHERE,
    run: redoMark,
  },
  {
    id: "go-on",
    title: "Going on by itself after a mark: on or off",
    section: "Decide",
    keys: ["n"],
    screens: PICTURES,
    run: () => setGoOn(!useShoot.getState().goOn),
  },
  {
    id: "unrate",
    title: "No stars",
    section: "Rate",
    keys: ["0"],
    screens: PICTURES,
    run: (at) => rate(0, at),
  },
  ...stars.map(
    (n): Command => ({
      id: `rate-${n}`,
      title: n === 1 ? "1 star" : `${n} stars`,
      section: "Rate",
      keys: [String(n)],
      screens: PICTURES,
      run: (at) => rate(n, at),
    }),
  ),
  {
    id: "next",
    title: "Next frame",
    section: "Move",
    keys: ["arrowright"],
    screens: PICTURES,
    run: (at) => goTo(step(1), at),
  },
  {
    id: "previous",
    title: "Previous frame",
    section: "Move",
    keys: ["arrowleft"],
    screens: PICTURES,
    run: (at) => goTo(step(-1), at),
  },
  {
    id: "next-group",
    title: "Next group",
    section: "Move",
    keys: ["arrowdown"],
    screens: PICTURES,
    run: (at) => activate(groupNeighbour(1), at),
  },
  {
    id: "previous-group",
    title: "Previous group",
    section: "Move",
    keys: ["arrowup"],
    screens: PICTURES,
    run: (at) => activate(groupNeighbour(-1), at),
  },
  {
    id: "next-open-group",
    title: "Next group with something undecided",
    section: "Move",
    keys: ["shift+u"],
    screens: PICTURES,
    run: (at) => activate(nextOpenGroup(), at),
  },
  {
    id: "next-scene",
    title: "Next scene",
    section: "Move",
    keys: ["ctrl+arrowdown"],
    screens: PICTURES,
    run: (at) => activate(sceneNeighbour(1), at),
  },
  {
    id: "previous-scene",
    title: "Previous scene",
    section: "Move",
    keys: ["ctrl+arrowup"],
    screens: PICTURES,
    run: (at) => activate(sceneNeighbour(-1), at),
  },
  {
    id: "next-run",
    title: "Long group: next run of frames",
    section: "Move",
    keys: ["pagedown"],
    screens: ["bench"],
    run: () => shout("next-run"),
  },
  {
    id: "previous-run",
    title: "Long group: previous run",
    section: "Move",
    keys: ["pageup"],
    screens: ["bench"],
    run: () => shout("previous-run"),
  },
  {
    id: "next-face",
    title: "Next face of this frame, close up",
    section: "Move",
    keys: ["shift+arrowright"],
    screens: ["bench"],
    run: () => shout("next-face"),
  },
  {
    id: "previous-face",
    title: "Previous face",
    section: "Move",
    keys: ["shift+arrowleft"],
    screens: ["bench"],
    run: () => shout("previous-face"),
  },
  {
    id: "next-undecided",
    title: "Next undecided frame",
    section: "Move",
    keys: ["u"],
    screens: PICTURES,
    run: (at) => activate(nextUndecided(), at),
  },
  {
    id: "first",
    title: "First frame",
    section: "Move",
    keys: ["home"],
    screens: PICTURES,
    run: (at) => activate(useShoot.getState().visible[0] ?? null, at),
  },
  {
    id: "last",
    title: "Last frame",
    section: "Move",
    keys: ["end"],
    screens: PICTURES,
    run: (at) => activate(useShoot.getState().visible.at(-1) ?? null, at),
  },
  {
    id: "layout-group",
    title: "The whole group on the stage",
    section: "Stage",
    keys: ["g"],
    screens: ["bench"],
    run: () => (useStage.getState().chosen ? choose(null) : setLayout("group")),
  },
  {
    id: "layout-two",
    title: "Two frames: one holds its place, the arrows bring challengers",
    section: "Stage",
    keys: ["i"],
    screens: ["bench"],
    run: () => setLayout("two"),
  },
  {
    id: "layout-one",
    title: "One frame",
    section: "Stage",
    keys: ["o"],
    screens: ["bench"],
    run: () => setLayout("one"),
  },
  {
    id: "flip",
    title: "Flip two frames in the same spot",
    section: "Stage",
    keys: ["f"],
    screens: ["bench"],
    run: flip,
  },
  {
    id: "swap",
    title: "Two frames: swap sides",
    section: "Stage",
    keys: ["y"],
    screens: ["bench"],
    run: swap,
  },
  {
    id: "take-place",
    title: "Two frames: the challenger takes the place",
    section: "Stage",
    keys: ["="],
    screens: ["bench"],
    run: takePlace,
  },
  {
    id: "lay-aside",
    title: "Take the frame off the stage",
    section: "Stage",
    keys: ["l"],
    screens: ["bench"],
    run: () => {
      const id = active();
      if (id !== null) layAside(id);
    },
  },
  {
    id: "discard-aside",
    title: "Discard, and off the stage",
    section: "Stage",
    keys: ["c"],
    screens: ["bench"],
    run: (at) => {
      const id = active();
      if (id === null) return;
      mark({ decision: "reject" }, at, [id]);
      layAside(id);
    },
  },
  {
    id: "put-back",
    title: "Put back what left the stage last",
    section: "Stage",
    keys: ["backspace"],
    screens: ["bench"],
    run: putBack,
  },
  {
    id: "kept-only",
    title: "Only undecided and kept on the stage: on or off",
    section: "Stage",
    keys: ["/"],
    screens: ["bench"],
    run: toggleKeptOnly,
  },
  {
    id: "zoom",
    title: "100 % at the pointer or the subject, and back",
    section: "Look",
    keys: [" "],
    screens: ["bench"],
    run: () => shout("zoom"),
  },
  {
    id: "zoom-more",
    title: "200 %, and back",
    section: "Look",
    keys: ["j"],
    screens: ["bench"],
    run: () => shout("zoom-more"),
  },
  {
    id: "follow",
    title: "The zoom follows the subject from frame to frame: on or off",
    section: "Look",
    keys: [";"],
    screens: ["bench"],
    run: () => setFollow(!useStage.getState().follow),
  },
  {
    id: "reset-offsets",
    title: "Undo all moving about",
    section: "Look",
    keys: ["'"],
    screens: ["bench"],
    run: resetOffsets,
  },
  {
    id: "loupe",
    title: "Loupe under the pointer, while held",
    section: "Look",
    keys: ["b"],
    screens: ["bench"],
    run: () => useStage.setState({ loupe: true }),
    end: () => useStage.setState({ loupe: false }),
  },
  {
    id: "peaking",
    title: "Light up edges in focus",
    section: "Look",
    keys: ["p"],
    screens: ["bench"],
    run: () => toggleOverlay("peaking"),
  },
  {
    id: "clipping",
    title: "Hatch what is burnt or blocked",
    section: "Look",
    keys: ["-"],
    screens: ["bench"],
    run: () => toggleOverlay("clipping"),
  },
  {
    id: "face-table",
    title: "Face table: wide or narrow",
    section: "Look",
    keys: [","],
    screens: ["bench"],
    run: () => useStage.setState({ table: !useStage.getState().table }),
  },
  {
    id: "full-screen",
    title: "Full screen",
    section: "Look",
    keys: ["\\"],
    screens: EVERYWHERE,
    run: () => {
      if (document.fullscreenElement) void document.exitFullscreen();
      else void document.documentElement.requestFullscreen();
    },
  },
  {
    id: "second-window",
    title: "A second window with the active frame, large",
    section: "Look",
    keys: ["shift+enter"],
    screens: PICTURES,
    run: () => {
      const { shootId } = useShoot.getState();
      window.open(`/shoots/${shootId}/large`, `winnow-large-${shootId}`, "popup,width=1200,height=800");
    },
  },
  {
    id: "surround",
    title: "Surround: dark, mid, light",
    section: "Look",
    keys: ["shift+l"],
    screens: EVERYWHERE,
    run: nextSurround,
  },
  {
    id: "panels",
    title: "Only the picture",
    section: "Look",
    keys: ["."],
    screens: PICTURES,
    run: () => shout("panels"),
  },
  {
    id: "spine",
    title: "Spine: show or hide",
    section: "Look",
    keys: ["["],
    screens: PICTURES,
    run: () => shout("spine"),
  },
  {
    id: "evidence",
    title: "Capture data: show or hide",
    section: "Look",
    keys: ["]"],
    screens: ["bench"],
    run: () => shout("evidence"),
  },
  {
    id: "blur-map",
    title: "Blur map over the picture: σ in px by tiles, faces, subject",
    section: "Look",
    keys: ["k"],
    screens: ["bench"],
    run: () => toggleOverlay("map"),
  },
  {
    id: "accept-lead",
    title: "Accept the lead, leave the rest",
    section: "Group",
    keys: ["6"],
    screens: PICTURES,
    run: () => acceptLead(active(), false),
  },
  {
    id: "accept-lead-only",
    title: "Accept the lead, discard the rest",
    section: "Group",
    keys: ["7"],
    screens: PICTURES,
    run: () => acceptLead(active(), true),
  },
  {
    id: "split",
    title: "Begin a new group at this frame",
    section: "Group",
    keys: ["shift+s"],
    screens: PICTURES,
    run: () => regroup("split", active()),
  },
  {
    id: "join",
    title: "Join with the next group",
    section: "Group",
    keys: ["shift+j"],
    screens: PICTURES,
    run: () => regroup("join_next", active()),
  },
  {
    id: "to-previous",
    title: "Move the frame to the group before",
    section: "Group",
    keys: ["shift+arrowup"],
    screens: PICTURES,
    run: () => regroup("to_previous", active()),
  },
  {
    id: "to-next",
    title: "Move the frame to the next group",
    section: "Group",
    keys: ["shift+arrowdown"],
    screens: PICTURES,
    run: () => regroup("to_next", active()),
  },
  {
    id: "extend-next",
    title: "Selection up to the next frame",
    section: "Select",
    keys: ["shift+arrowright"],
    screens: ["wall"],
    run: (at) => extend(neighbour(1), at),
  },
  {
    id: "extend-previous",
    title: "Selection up to the previous frame",
    section: "Select",
    keys: ["shift+arrowleft"],
    screens: ["wall"],
    run: (at) => extend(neighbour(-1), at),
  },
  {
    id: "select-group",
    title: "Select the group",
    section: "Select",
    keys: ["g"],
    screens: ["wall"],
    run: () => {
      const { active, frames, visible } = useShoot.getState();
      const group = active === null ? undefined : frames.get(active)?.group;
      select(visible.filter((id) => frames.get(id)?.group === group));
    },
  },
  {
    id: "select-all",
    title: "Select all in view",
    section: "Select",
    keys: ["ctrl+a"],
    screens: ["wall"],
    run: () => select(useShoot.getState().visible),
  },
  {
    id: "select-none",
    title: "Select nothing",
    section: "Select",
    keys: ["escape"],
    screens: ["wall"],
    run: clearSelection,
  },
  {
    id: "filter",
    title: "Show all, and back to the filter",
    section: "Filter",
    keys: ["h"],
    screens: PICTURES,
    run: toggleFilter,
  },
  {
    id: "filter-picks",
    title: "Filter: keepers",
    section: "Filter",
    keys: ["alt+a"],
    screens: PICTURES,
    run: () => toggleDecision("pick"),
  },
  {
    id: "filter-undecided",
    title: "Filter: undecided",
    section: "Filter",
    keys: ["alt+s"],
    screens: PICTURES,
    run: () => toggleDecision("undecided"),
  },
  {
    id: "filter-rejects",
    title: "Filter: rejects",
    section: "Filter",
    keys: ["alt+d"],
    screens: PICTURES,
    run: () => toggleDecision("reject"),
  },
  ...stars.map(
    (n): Command => ({
      id: `filter-${n}`,
      title: `Filter: at least ${n === 1 ? "1 star" : `${n} stars`}`,
      section: "Filter",
      keys: [`alt+${n}`],
      screens: PICTURES,
      run: () => atLeast(n),
    }),
  ),
  {
    id: "filter-unrated",
    title: "Filter: unrated",
    section: "Filter",
    keys: ["alt+0"],
    screens: PICTURES,
    run: () =>
      setFilter({
        ratingRule: useShoot.getState().filter.ratingRule === "unrated" ? null : "unrated",
        stars: 0,
      }),
  },
  {
    id: "selection-to-stage",
    title: "The selected frames on the stage",
    section: "Select",
    keys: ["shift+b"],
    screens: ["wall"],
    run: (_, go) => {
      choose([...useShoot.getState().selection]);
      go("bench");
    },
  },
  {
    id: "to-bench",
    title: "To the bench",
    section: "Go",
    keys: ["enter"],
    screens: ["wall"],
    run: (_, go) => go("bench"),
  },
  {
    id: "to-wall",
    title: "To the wall",
    section: "Go",
    keys: ["enter", "escape"],
    screens: ["bench"],
    run: (_, go) => go("wall"),
  },
  {
    id: "wall",
    title: "Wall",
    section: "Go",
    keys: ["v"],
    screens: ["bench", "handoff"],
    run: (_, go) => go("wall"),
  },
  {
    id: "bench",
    title: "Bench",
    section: "Go",
    keys: ["b"],
    screens: ["wall", "handoff"],
    run: (_, go) => go("bench"),
  },
  {
    id: "handoff",
    title: "Handoff",
    section: "Go",
    keys: ["m"],
    screens: PICTURES,
    run: (_, go) => go("handoff"),
  },
  {
    id: "keys",
    title: "The keys in force",
    section: "Go",
    keys: ["?"],
    screens: EVERYWHERE,
    run: () => shout("keys"),
  },
];

export const KEY_NAMES: Record<string, string> = {
  " ": "Space",
  pagedown: "Page ↓",
  pageup: "Page ↑",
  backspace: "⌫",
  arrowright: "→",
  arrowleft: "←",
  arrowup: "↑",
  arrowdown: "↓",
  escape: "Esc",
  enter: "Enter",
  home: "Home",
  end: "End",
  ctrl: "Ctrl",
  alt: "Alt",
  shift: "Shift",
};

export function keyName(key: string): string {
  return key
    .split("+")
    .map((part) => KEY_NAMES[part] ?? part.toUpperCase())
    .join(" ");
}

/** The first key of a command, as shown in hints. */
export function keyOf(id: string): string {
  const key = COMMANDS.find((command) => command.id === id)?.keys[0];
  return key === undefined ? "" : keyName(key);
}
