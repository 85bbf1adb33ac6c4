/** The commands of the handoff. Marks cannot be seen here, so none is made or taken back here. */

import type { Command } from "../../keys/command";
import { TO_BENCH, TO_SYNC, TO_WALL } from "../../shoot/commands";

export const HANDOFF: Command[] = [TO_WALL, TO_BENCH, TO_SYNC];
