/** The keys in force: a table of commands for each screen, filled in when the application starts. */

import type { Bindings, Bound } from "./bindings";
import type { Command, Commands } from "./command";
import { keyName } from "./press";
import { keySet } from "./sets";

let tables: Record<string, Commands> = {};
let gate: (command: Command) => Command | null = (command) => command;

/** asInForce: a command as it is at the moment, or null where it rests. */
export function fillKeys(all: Record<string, Commands>, asInForce = gate) {
  tables = all;
  gate = asInForce;
}

/** The commands of a screen that are in force now, in the order of the list of keys. */
export function commandsOf(screen: string): Command[] {
  return knownOf(screen).flatMap((one) => gate(one) ?? []);
}

/** All of them, those that rest included. */
function knownOf(screen: string): Command[] {
  const { keys } = keySet();
  const labels = labelPlaces(screen);
  return asTheyCome(screen).map((one) => {
    const own = keysIn(keys, one.id, labels);
    return own ? { ...one, keys: own } : one;
  });
}

/** Labels have keys of their own; a set may give them others by their places on the list: "label-1". */
function keysIn(own: Bindings, id: string, labels: string[]): string[] | undefined {
  return own[id] ?? (id.startsWith("label-") ? own[`label-${labels.indexOf(id) + 1}`] : undefined);
}

function labelPlaces(screen: string): string[] {
  return asTheyCome(screen)
    .map(({ id }) => id)
    .filter((id) => id.startsWith("label-"));
}

/** With the keys that they come with. */
function asTheyCome(screen: string): Command[] {
  return (tables[screen] ?? []).flatMap((one) => (typeof one === "function" ? one() : [one]));
}

/** Every command once, with the screens that it is on. own: keys in the place of those that they come with. */
export function allBound(own: Bindings): (Bound & Pick<Command, "section">)[] {
  const found = new Map<string, Bound & Pick<Command, "section">>();
  for (const screen of Object.keys(tables)) {
    const labels = labelPlaces(screen);
    for (const { id, title, section, keys } of asTheyCome(screen)) {
      const one = found.get(id) ?? { id, title, section, screens: [], keys: keysIn(own, id, labels) ?? keys };
      one.screens.push(screen);
      found.set(id, one);
    }
  }
  return [...found.values()];
}

/** Does what a command's key does. */
export function runCommand(screen: string, id: string, at: number) {
  commandsOf(screen)
    .find((one) => one.id === id)
    ?.run(at);
}

/** What a key does already on any screen, apart from the commands of a kind. */
export function takenBy(key: string, except: (id: string) => boolean): Command | undefined {
  return Object.keys(tables)
    .flatMap(knownOf)
    .find((one) => one.keys.includes(key) && !except(one.id));
}

/** The first key of a command, as shown in hints; empty if no screen has it. */
export function keyOf(id: string): string {
  const command = Object.keys(tables)
    .flatMap(knownOf)
    .find((one) => one.id === id);
  return keyName(command?.keys[0] ?? "");
}
