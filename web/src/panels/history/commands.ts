import type { Command } from "../../keys/command";
import { togglePanel } from "../shown";

export const HISTORY: Command = {
  id: "history",
  title: "History: what was done, and back to any point",
  section: "Look",
  keys: ["shift+h"],
  run: () => togglePanel("history"),
};
