/** The commands of the sync screen: what is settled there is chosen on it. */

import type { Command } from "../../keys/command";
import { TO_BENCH, TO_HANDOFF, TO_WALL } from "../../shoot/commands";

export const SYNC: Command[] = [TO_WALL, TO_BENCH, TO_HANDOFF];
