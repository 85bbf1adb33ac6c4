/** Commands for what stands beside the pictures. */

import type { Command } from "../keys/command";
import { HISTORY } from "./history/commands";
import { LEGEND } from "./labels/commands";
import { togglePanel } from "./shown";
import { WORDS } from "./words/commands";

export const PANELS: Command[] = [
  LEGEND,
  HISTORY,
  WORDS,
  {
    id: "panels",
    title: "Only the picture",
    section: "Look",
    keys: ["."],
    run: () => togglePanel("bare"),
  },
  {
    id: "spine",
    title: "Spine: show or hide",
    section: "Look",
    keys: ["["],
    run: () => togglePanel("spine"),
  },
];
