/** Every command there is, in the order of the list of keys, and how keys are named. */

import type { Command } from "./command";
import { GROUPS, MARKS } from "./marks";
import { MOVES } from "./moves";
import { LOOK, STAGE } from "./stage";
import { FILTERS, SCREENS, SELECTING } from "./views";

export const COMMANDS: Command[] = [
  ...MARKS,
  ...MOVES,
  ...STAGE,
  ...LOOK,
  ...GROUPS,
  ...SELECTING,
  ...FILTERS,
  ...SCREENS,
];

const KEY_NAMES: Record<string, string> = {
  " ": "Space",
  pagedown: "Page ↓",
  pageup: "Page ↑",
  backspace: "⌫",
  arrowright: "→",
  arrowleft: "←",
  arrowup: "↑",
  arrowdown: "↓",
  escape: "Esc",
  enter: "Enter",
  home: "Home",
  end: "End",
  ctrl: "Ctrl",
  alt: "Alt",
  shift: "Shift",
};

export function keyName(key: string): string {
  return key
    .split("+")
    .map((part) => KEY_NAMES[part] ?? part.toUpperCase())
    .join(" ");
}

/** The first key of a command, as shown in hints. */
export function keyOf(id: string): string {
  const key = COMMANDS.find((command) => command.id === id)?.keys[0];
  return key === undefined ? "" : keyName(key);
}
