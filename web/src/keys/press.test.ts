import { expect, test } from "vitest";
import { pressed } from "./press";

interface Held {
  shift?: boolean;
  ctrl?: boolean;
  alt?: boolean;
  altGraph?: boolean;
}

function press(key: string, code: string, { shift, ctrl, alt, altGraph }: Held = {}): string {
  const held = { shiftKey: !!shift, ctrlKey: !!ctrl, altKey: !!alt, metaKey: false };
  return pressed({
    key,
    code,
    ...held,
    getModifierState: (name: string) => name === "AltGraph" && !!altGraph,
  } as unknown as KeyboardEvent);
}

// Layouts: DIN 2137 (QWERTZ) and the common French AZERTY, from memory; `code` as UI Events KeyboardEvent code Values.
test.each([
  ["US: a letter", press("a", "KeyA"), "a"],
  ["US: with Shift", press("S", "KeyS", { shift: true }), "shift+s"],
  ["US: caps lock", press("S", "KeyS"), "s"],
  ["US: ?", press("?", "Slash", { shift: true }), "?"],
  ["US: a digit with Shift is no digit", press("!", "Digit1", { shift: true }), "!"],
  ["QWERTZ: Z where US has Y", press("z", "KeyY"), "z"],
  ["QWERTZ: / is Shift 7", press("/", "Digit7", { shift: true }), "/"],
  ["QWERTZ: ; is Shift ,", press(";", "Comma", { shift: true }), ";"],
  ["QWERTZ: [ is AltGr 8", press("[", "Digit8", { ctrl: true, alt: true, altGraph: true }), "["],
  ["QWERTZ: [ where AltGr is told alone", press("[", "Digit8", { altGraph: true }), "["],
  ["AZERTY: A where US has Q", press("a", "KeyQ"), "a"],
  ["AZERTY: 1 without Shift", press("&", "Digit1"), "1"],
  ["AZERTY: 1 with Shift", press("1", "Digit1", { shift: true }), "1"],
  ["AZERTY: 2 is a letter of another script to the eye", press("é", "Digit2"), "2"],
  ["AZERTY: Alt A", press("a", "KeyQ", { alt: true }), "alt+a"],
  ["AZERTY: Alt 3", press('"', "Digit3", { alt: true }), "alt+3"],
  ["a number pad", press("4", "Numpad4"), "4"],
  ["Alt makes another letter", press("å", "KeyA", { alt: true }), "alt+a"],
  ["Cyrillic", press("ф", "KeyA"), "a"],
  ["a key with a name", press("ArrowDown", "ArrowDown", { shift: true }), "shift+arrowdown"],
  ["undo", press("z", "KeyY", { ctrl: true }), "ctrl+z"],
])("%s", (_, found, wanted) => expect(found).toBe(wanted));
