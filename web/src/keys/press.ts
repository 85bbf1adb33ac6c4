/** What a key press is, and how keys are named. Decided here once: letters are what is printed on the key, wherever it lies;
 * digits are the row of digits, with or without Shift; other characters are what the layout makes of any number of keys. */

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

/** The key without what is held beside it. */
export function plainKey(event: KeyboardEvent): string {
  const key = event.key.toLowerCase();
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
};

/** A press as people read it. */
export function keyName(press: string): string {
  return press
    .split("+")
    .map((part) => KEY_NAMES[part] ?? part.toUpperCase())
    .join(" ");
}
