/** What a key press is, and how keys are named. Decided here once: letters are what is printed on the key, wherever it lies;
 * digits are the row of digits, with or without Shift; other characters are what the layout makes of any number of keys.
 * A key set may go by places instead: then a key is what stands there on the layout that most have. */

import { atPlace, printedOn } from "./layout";
import { keySet } from "./sets";

/** A press as commands name it: the key in lower case, with ctrl+, alt+, shift+ before it. Shift counts with letters and
 * keys that have a name: what other characters need it for differs from layout to layout. */
export function pressed(event: KeyboardEvent): string {
  const key = plainKey(event);
  // AltGr, which some systems tell of as Ctrl and Alt, is how a layout reaches some characters.
  const isReached = key.length === 1 && !isLetter(key) && event.getModifierState?.("AltGraph");
  const ctrl = (event.ctrlKey || event.metaKey) && !isReached ? "ctrl+" : "";
  const alt = event.altKey && !isReached ? "alt+" : "";
  const shift = event.shiftKey && (key.length > 1 || key === " " || isLetter(key)) ? "shift+" : "";
  return ctrl + alt + shift + key;
}

/** A button of the mouse as commands name it: mouse4 and mouse5 are those under the thumb. */
export function pressedButton(event: MouseEvent): string {
  return `${held(event)}mouse${event.button + 1}`;
}

/** A turn of the wheel as commands name it. */
export function turnedWheel(event: WheelEvent): string {
  return held(event) + (event.deltaY < 0 ? "wheelup" : "wheeldown");
}

function held({ ctrlKey, metaKey, altKey, shiftKey }: MouseEvent): string {
  return (ctrlKey || metaKey ? "ctrl+" : "") + (altKey ? "alt+" : "") + (shiftKey ? "shift+" : "");
}

/** The key without what is held beside it. */
export function plainKey(event: KeyboardEvent): string {
  const key = event.key.toLowerCase();
  const placed = keySet().by === "position" && key.length === 1 && atPlace(event.code, event.shiftKey);
  if (placed) return placed;
  if (/^[0-9]$/.test(key) || key.length > 1 || isLetter(key)) return key;
  // On some layouts the row of digits gives other characters without Shift.
  const [, digit] = /^Digit([0-9])$/.exec(event.code) ?? [];
  const isReached = event.getModifierState?.("AltGraph");
  if (digit && !isReached && (!event.shiftKey || event.altKey)) return digit;
  // Where letters are of another script, or Alt makes others of them, the place of the key says which is meant.
  const [, letter] = /^Key([A-Z])$/.exec(event.code) ?? [];
  return letter && isWordOrAlt(event, key) ? letter.toLowerCase() : key;
}

function isLetter(key: string): boolean {
  return /^[a-z]$/.test(key);
}

function isWordOrAlt(event: KeyboardEvent, key: string): boolean {
  return event.altKey || /\p{L}/u.test(key);
}

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
  mouse4: "Mouse 4",
  mouse5: "Mouse 5",
  wheelup: "Wheel ↑",
  wheeldown: "Wheel ↓",
};

/** What is printed on a key. */
export function capName(key: string): string {
  return KEY_NAMES[key] ?? key.toUpperCase();
}

/** A press as people read it. */
export function keyName(press: string): string {
  // The last plus of "ctrl++" is a key.
  const parts = press.endsWith("+")
    ? [...press.slice(0, -2).split("+").filter(Boolean), "+"]
    : press.split("+");
  const byPlace = keySet().by === "position";
  return parts.map((part) => KEY_NAMES[part] ?? (byPlace ? printedOn(part) : part).toUpperCase()).join(" ");
}
