/** Keys that commands have in the place of those that they come with: giving and taking them, clashes, files. */

/** What a key is known by: what is printed on it, or the place where it lies. */
export type By = "letter" | "position";

/** By id of the command, all of its keys; none: it has no key. */
export type Bindings = Record<string, string[]>;

/** A command as the editor needs it: on which screens it is, and its keys as they are now. */
export interface Bound {
  id: string;
  title: string;
  screens: string[];
  keys: string[];
}

/** What the browser or the system keeps for itself, and why. */
const KEPT: Record<string, string> = {
  "ctrl+t": "the browser opens a tab with it",
  "ctrl+n": "the browser opens a window with it",
  "ctrl+w": "the browser closes the tab with it",
  "ctrl+shift+t": "the browser opens a closed tab again with it",
  "ctrl+shift+n": "the browser opens a private window with it",
  "ctrl+shift+w": "the browser closes the window with it",
  "ctrl+tab": "the browser changes tabs with it",
  "alt+f4": "the system closes the window with it",
  "alt+tab": "the system changes windows with it",
  mouse1: "it is what everything is pressed with",
  mouse2: "the browser opens addresses with it",
  mouse3: "it opens menus",
  wheelup: "it scrolls and zooms: hold a key beside it",
  wheeldown: "it scrolls and zooms: hold a key beside it",
  tab: "it goes from control to control",
  "shift+tab": "it goes from control to control",
};
const ALONE = new Set([
  "ctrl",
  "alt",
  "shift",
  "meta",
  "altgraph",
  "capslock",
  "dead",
  "unidentified",
  "process",
]);

/** Why a press cannot be given to a command; null: it can. */
export function whyNot(press: string): string | null {
  if (ALONE.has(press.split("+").at(-1) ?? "")) return "press it together with another key";
  return KEPT[press] ?? null;
}

/** Whether a press is of a key that is only held beside others, and nothing yet. */
export function isHeldAlone(press: string): boolean {
  return ALONE.has(press.split("+").at(-1) ?? "");
}

/** The command that has a key already where another one is to have it. */
export function clash(commands: Bound[], id: string, press: string): Bound | undefined {
  const screens = commands.find((one) => one.id === id)?.screens ?? [];
  return commands.find(
    (one) =>
      one.id !== id && one.keys.includes(press) && one.screens.some((screen) => screens.includes(screen)),
  );
}

/** Keys that two commands of one screen have, in words: where a label was given a key that the set uses. */
export function doubled(commands: Bound[]): string[] {
  return commands.flatMap((one, at) =>
    commands.slice(at + 1).flatMap((other) => {
      const key = one.keys.find((press) => other.keys.includes(press));
      const isHere = one.screens.some((screen) => other.screens.includes(screen));
      return key !== undefined && isHere ? [`${key}: ${one.title}, and ${other.title}`] : [];
    }),
  );
}

/** Gives a command a key in the place of one it has (`instead`), or beside those. Whoever had the key loses it, and with
 * `swap` gets the one that is given up. */
export function bound(
  own: Bindings,
  commands: Bound[],
  id: string,
  press: string,
  instead: string | null,
  swap: boolean,
): Bindings {
  const command = commands.find((one) => one.id === id);
  if (!command) return own;
  const other = clash(commands, id, press);
  const keys =
    instead === null ? [...command.keys, press] : command.keys.map((key) => (key === instead ? press : key));
  const next = { ...own, [id]: [...new Set(keys)] };
  if (other) {
    const left = other.keys.filter((key) => key !== press);
    next[other.id] = swap && instead !== null ? [instead, ...left] : left;
  }
  return next;
}

/** Takes a key from a command. */
export function unbound(own: Bindings, commands: Bound[], id: string, press: string): Bindings {
  const keys = commands.find((one) => one.id === id)?.keys ?? [];
  return { ...own, [id]: keys.filter((key) => key !== press) };
}

interface Read {
  /** Of the set, where it says one. */
  name: string | null;
  by: By;
  own: Bindings;
  misfits: string[];
}

/** A key set out of a file, and, in words, what did not fit. commands: as they come. Throws for what holds no keys. */
export function readBindings(text: string, commands: Bound[]): Read {
  const content: unknown = JSON.parse(text);
  const { keys, name, by } = (content as Partial<Record<string, unknown>> | null) ?? {};
  if (typeof keys !== "object" || keys === null || Array.isArray(keys))
    throw new Error("there are no keys in it");
  const own: Bindings = {};
  const misfits: string[] = [];
  for (const [id, wanted] of Object.entries(keys)) {
    const isList = Array.isArray(wanted) && wanted.every((one) => typeof one === "string" && one);
    if (!commands.some((one) => one.id === id)) misfits.push(`${id}: there is no such command`);
    else if (!isList) misfits.push(`${id}: its keys are no list of texts`);
    else own[id] = wanted;
  }
  const after = commands.map((one) => ({ ...one, keys: own[one.id] ?? one.keys }));
  for (const one of after) {
    for (const press of own[one.id] ?? []) {
      const why = whyNot(press);
      const other = clash(after, one.id, press);
      if (!why && !other) continue;
      misfits.push(`${one.title}: ${press}: ${why ?? `${other?.title} has it`}`);
      one.keys = one.keys.filter((key) => key !== press);
      own[one.id] = one.keys;
    }
  }
  const isPlace = by === "position";
  return {
    name: typeof name === "string" && name.trim() ? name.trim().slice(0, 60) : null,
    by: isPlace ? "position" : "letter",
    own,
    misfits,
  };
}

/** The same for a file that is saved. */
export function written({ name, by, keys }: { name: string; by: By; keys: Bindings }): string {
  return `${JSON.stringify({ name, by, keys }, null, 2)}\n`;
}
