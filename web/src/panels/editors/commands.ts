import type { Command } from "../../keys/command";
import { askForEditor } from "./open";

export const OPEN_IN_EDITOR: Command = {
  id: "open-in-editor",
  title: "Open in an editing program",
  section: "Go",
  keys: ["ctrl+o"],
  run: askForEditor,
};
