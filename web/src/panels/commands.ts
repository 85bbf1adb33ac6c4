/** Commands for what stands beside the pictures. */

import type { Command } from "../keys/command";
import { OPEN_IN_EDITOR } from "./editors/commands";
import { HISTORY } from "./history/commands";
import { LEGEND } from "./labels/commands";
import { COPY_NAMES } from "./names";
import { togglePanel } from "./shown";
import { WORDS } from "./words/commands";

export const PANELS: Command[] = [
  LEGEND,
  HISTORY,
  WORDS,
  OPEN_IN_EDITOR,
  COPY_NAMES,
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
