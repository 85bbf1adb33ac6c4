/** Commands of passes. */

import type { Command } from "../../keys/command";
import { passNow, useWalk } from "../../shoot/walk/store";
import { endTogether, showTogether } from "../../shoot/walk/together";
import { openPasses } from "./open";

export const PASSES: Command = {
  id: "passes",
  title: "Passes: begin one, or go on with one",
  section: "Go",
  keys: ["p"],
  run: openPasses,
};

export const AT_ONCE: Command = {
  id: "at-once",
  title: "In a pass: several frames together, to be rejected at once",
  section: "Decide",
  keys: ["shift+a"],
  run: () => {
    const first = passNow()?.bulk[0];
    if (useWalk.getState().bulk) endTogether();
    else if (first !== undefined) void showTogether(first);
  },
};
