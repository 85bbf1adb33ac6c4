/** What is printed on the keys here, where the browser tells; and what stands at their places on the layout that most
 * have (US), by which places are named. Names of places: UI Events KeyboardEvent code Values. */

import { create } from "zustand";

/** At places of other characters than letters and digits: alone, and with Shift. */
const PLACES: Record<string, [string, string]> = {
  Backquote: ["`", "~"],
  Minus: ["-", "_"],
  Equal: ["=", "+"],
  BracketLeft: ["[", "{"],
  BracketRight: ["]", "}"],
  Backslash: ["\\", "|"],
  Semicolon: [";", ":"],
  Quote: ["'", '"'],
  Comma: [",", "<"],
  Period: [".", ">"],
  Slash: ["/", "?"],
};

interface Layouts {
  keyboard?: { getLayoutMap: () => Promise<Map<string, string>> };
}

export const useLayout = create<{ printed: ReadonlyMap<string, string> | null }>(() => ({ printed: null }));

/** Asks the browser once how the keyboard is laid out. */
export function learnLayout() {
  const { keyboard } = navigator as Layouts;
  keyboard
    ?.getLayoutMap()
    .then((printed) => useLayout.setState({ printed: new Map(printed) }))
    .catch(() => undefined);
}

/** The key at a place as presses are named, going by places. Undefined: it has a name of its own. */
export function atPlace(code: string, shift: boolean): string | undefined {
  const [, letter] = /^Key([A-Z])$/.exec(code) ?? [];
  const [, digit] = /^(?:Digit|Numpad)([0-9])$/.exec(code) ?? [];
  return letter?.toLowerCase() ?? digit ?? PLACES[code]?.[shift ? 1 : 0];
}

/** What is printed at a place. */
export function printedAt(code: string): string {
  const { printed } = useLayout.getState();
  if (/^Digit\d$/.test(code)) return code.slice(-1);
  return (printed?.get(code) ?? atPlace(code, false) ?? code).toLowerCase();
}

/** The place of a key that is named by it: "q" for KeyQ. */
function placeOf(key: string): string | undefined {
  if (/^[a-z]$/.test(key)) return `Key${key.toUpperCase()}`;
  return Object.keys(PLACES).find((code) => PLACES[code]?.includes(key));
}

/** What is printed on a key that is named by its place. */
export function printedOn(key: string): string {
  const code = placeOf(key);
  const isShifted = code !== undefined && PLACES[code]?.[1] === key;
  return code && !isShifted ? printedAt(code) : key;
}
