/** What stands on the stage, and how it is looked at. */

import {
  choose,
  flip,
  layAside,
  putBack,
  resetOffsets,
  setFollow,
  setLayout,
  swap,
  takePlace,
  toggleKeptOnly,
  toggleOverlay,
  useStage,
} from "../bench/stageStore";
import { nextSurround } from "../parts/surround";
import { mark } from "../shoot/marking";
import { useShoot } from "../shoot/store";
import { active, type Command, EVERYWHERE, PICTURES, shout } from "./command";

export const STAGE: Command[] = [
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
];

export const LOOK: Command[] = [
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
];
