/** The commands of all screens: each screen's own, and those that are in force everywhere. */

import { navigate } from "wouter/use-browser-location";
import type { Command, Commands } from "../keys/command";
import { beginGuide } from "../panels/guide/guide";
import { openPalette } from "../panels/palette/open";
import { BENCH } from "../screens/bench/commands";
import { HANDOFF } from "../screens/handoff/commands";
import { SYNC } from "../screens/sync/commands";
import { WALL } from "../screens/wall/commands";
import { toggleFullScreen } from "../shoot/fullScreen";
import { useShoot } from "../shoot/store";
import { tryAgain } from "../shoot/tryAgain";
import { nextSurround } from "../ui/surround";
import { showKeys } from "./overlay";
import type { Screen } from "./screens";

const EVERYWHERE: Command[] = [
  {
    id: "palette",
    title: "Find anything: commands, filters, scenes, frames",
    section: "Go",
    keys: ["ctrl+k"],
    run: openPalette,
  },
  {
    id: "full-screen",
    title: "Full screen",
    section: "Look",
    keys: ["\\"],
    run: toggleFullScreen,
  },
  {
    id: "surround",
    title: "Surround: dark, mid, light",
    section: "Look",
    keys: ["shift+l"],
    run: nextSurround,
  },
  {
    id: "try-again",
    title: "Read the folder again and try what failed",
    section: "Go",
    keys: ["shift+k"],
    run: () => void tryAgain(useShoot.getState().shootId),
  },
  {
    id: "guide",
    title: "First steps: six, each done by doing it",
    section: "Go",
    keys: ["shift+i"],
    run: beginGuide,
  },
  {
    id: "settings",
    title: "Settings",
    section: "Go",
    keys: [],
    run: () => navigate("/settings"),
  },
  {
    id: "keys",
    title: "The keys in force",
    section: "Go",
    keys: ["?"],
    run: () => showKeys(true),
  },
];

export const COMMANDS: Record<Screen, Commands> = {
  bench: [...BENCH, ...EVERYWHERE],
  wall: [...WALL, ...EVERYWHERE],
  handoff: [...HANDOFF, ...EVERYWHERE],
  sync: [...SYNC, ...EVERYWHERE],
};
