/** The commands of the handoff. Marks cannot be seen here, so none is made or taken back here. */

import type { Command } from "../../keys/command";
import { goToScreen } from "../../shoot/address";

export const HANDOFF: Command[] = [
  { id: "wall", title: "Wall", section: "Go", keys: ["v"], run: () => goToScreen("wall") },
  { id: "bench", title: "Bench", section: "Go", keys: ["b"], run: () => goToScreen("bench") },
];
