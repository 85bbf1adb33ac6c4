/** The keyboard as it is laid out here. */

import type { By } from "../../keys/bindings";
import { atPlace, printedAt } from "../../keys/layout";

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

const HELD: Record<string, string> = {
  Space: " ",
  ControlLeft: "ctrl",
  AltLeft: "alt",
  AltRight: "alt",
  ShiftLeft: "shift",
  ShiftRight: "shift",
};

/** The key at a place as presses are named in a set, and what is printed on it. */
export function capAt(code: string, by: By): { press: string; printed: string } {
  const own = HELD[code];
  if (own) return { press: own, printed: own };
  const printed = printedAt(code);
  return { press: (by === "position" && atPlace(code, false)) || printed, printed };
}
