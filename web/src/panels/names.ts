/** The names of frames, for pasting where no file can be dragged. */

import type { Command } from "../keys/command";
import { useShoot } from "../shoot/store";
import { wordScope } from "../shoot/words";

export const COPY_NAMES: Command = {
  id: "copy-names",
  title: "Copy the names, one a line; what is marked as text goes first",
  section: "Go",
  keys: ["ctrl+c"],
  run: () => {
    const marked = window.getSelection()?.toString();
    const { frames } = useShoot.getState();
    const names = wordScope(useShoot.getState()).map((id) => frames.get(id)?.name);
    void navigator.clipboard?.writeText(marked || names.join("\n"));
  },
};
