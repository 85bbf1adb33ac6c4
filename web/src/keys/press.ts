/** What a key press is, and how keys are named. */

/** A press as commands name it: `event.key` in lower case, with ctrl+, alt+, shift+ before it. */
export function pressed(event: KeyboardEvent): string {
  const key = event.key.toLowerCase();
  // With Alt held some layouts give another character: the digit or letter on the key is meant.
  const plain = event.altKey && /^(Key|Digit)./.test(event.code) ? event.code.slice(-1).toLowerCase() : key;
  const shift = event.shiftKey && plain !== "?" ? "shift+" : "";
  return `${event.ctrlKey || event.metaKey ? "ctrl+" : ""}${event.altKey ? "alt+" : ""}${shift}${plain}`;
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
