import type { Command } from "../../keys/command";
import { togglePanel } from "../shown";

export const LEGEND: Command = {
  id: "legend",
  title: "Labels: what they mean, and how to change them",
  section: "Label",
  keys: ["shift+q"],
  run: () => togglePanel("legend"),
};
