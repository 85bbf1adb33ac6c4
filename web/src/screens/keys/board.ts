/** The keyboard as it is laid out here. */

import { useEffect, useState } from "react";

export interface Cap {
  /** Name of its place (UI Events `code`). */
  code: string;
  /** In widths of a letter's key. */
  width: number;
}

const row = (text: string): Cap[] =>
  text.split(" ").map((one) => {
    const [code = "", width = "1"] = one.split(":");
    return { code, width: Number(width) };
  });

/** Places of the keys, row by row: a full-size board without its number pad. */
export const ROWS: Cap[][] = [
  row(
    "Backquote Digit1 Digit2 Digit3 Digit4 Digit5 Digit6 Digit7 Digit8 Digit9 Digit0 Minus Equal Backspace:1.9",
  ),
  row("Tab:1.5 KeyQ KeyW KeyE KeyR KeyT KeyY KeyU KeyI KeyO KeyP BracketLeft BracketRight Backslash:1.4"),
  row("CapsLock:1.8 KeyA KeyS KeyD KeyF KeyG KeyH KeyJ KeyK KeyL Semicolon Quote Enter:2.1"),
  row("ShiftLeft:2.3 KeyZ KeyX KeyC KeyV KeyB KeyN KeyM Comma Period Slash ShiftRight:2.6"),
  row("ControlLeft:1.5 AltLeft:1.5 Space:6.4 AltRight:1.5 ArrowLeft ArrowUp ArrowDown ArrowRight"),
];

/** What a key gives on the layout that most have, where the browser does not tell which one is here. */
const USUAL: Record<string, string> = {
  Backquote: "`",
  Minus: "-",
  Equal: "=",
  BracketLeft: "[",
  BracketRight: "]",
  Backslash: "\\",
  Semicolon: ";",
  Quote: "'",
  Comma: ",",
  Period: ".",
  Slash: "/",
  Space: " ",
  ControlLeft: "ctrl",
  AltLeft: "alt",
  AltRight: "alt",
  ShiftLeft: "shift",
  ShiftRight: "shift",
};

interface Layouts {
  keyboard?: { getLayoutMap: () => Promise<Map<string, string>> };
}

/** The key at a place, as presses are named: what is printed on it here. */
export function usePrinted(): (code: string) => string {
  const [layout, setLayout] = useState<Map<string, string>>();
  useEffect(() => {
    (navigator as Layouts).keyboard
      ?.getLayoutMap()
      .then(setLayout)
      .catch(() => undefined);
  }, []);
  return (code) => {
    const [, digit] = /^Digit(\d)$/.exec(code) ?? [];
    if (digit) return digit;
    const [, letter] = /^Key([A-Z])$/.exec(code) ?? [];
    return (layout?.get(code) ?? letter ?? USUAL[code] ?? code).toLowerCase();
  };
}
