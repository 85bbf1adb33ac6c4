import type { Command } from "../../keys/command";
import { togglePanel, usePanels } from "../shown";

export const CAPTION = "words-caption";

/** Shown, it has the keyboard: who asks for it means to write. */
export const WORDS: Command = {
  id: "words",
  title: "Words: caption, keywords, creator; in the caption Ctrl Enter goes on to the next frame",
  section: "Look",
  keys: ["shift+t"],
  run: () => {
    togglePanel("words");
    if (usePanels.getState().words) requestAnimationFrame(() => document.getElementById(CAPTION)?.focus());
  },
};
