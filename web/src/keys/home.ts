/** The element that keys act on: it has the keyboard whenever nothing else needs it, and so is announced as it changes. */

import { type RefObject, useEffect } from "react";

/** While one of these is open, every key is its own. */
const LAYERS = "[role=menu], [role=dialog], [role=alertdialog], [role=listbox]";
/** What is typed into, or moved by keys. */
export const FIELDS = "input, textarea, select, [contenteditable=true], [role=slider]";

/** The keyboard follows who stays so long with a frame, ms: giving it to an element takes the browser longer than drawing
 * does, and nobody can listen to frames that fly past. Keys act on the active frame wherever it is. */
const STAYED_MS = 120;

let home: HTMLElement | null = null;
let timer: ReturnType<typeof setTimeout> | undefined;

/** Makes an element the one that keys act on, for as long as `isActive`. `name`: what it shows; another is announced anew. */
export function useHome(element: RefObject<HTMLElement | null>, isActive: boolean, name: number) {
  // biome-ignore lint/correctness/useExhaustiveDependencies: another name is another thing in the same element
  useEffect(() => {
    const here = element.current;
    if (!isActive || !here) return;
    home = here;
    // A control that was gone to by keys is done with: Enter is the screen's again, at once.
    const had = document.activeElement;
    if (
      had instanceof HTMLElement &&
      !isHome(had) &&
      had !== document.body &&
      !isLayerOpen() &&
      !had.closest(FIELDS)
    )
      had.blur();
    clearTimeout(timer);
    timer = setTimeout(() => {
      if (document.activeElement === here) here.blur();
      goHome();
    }, STAYED_MS);
    return () => {
      if (home === here) home = null;
    };
  }, [element, isActive, name]);
}

/** Whether an element is one that keys act on, or was just before. */
export function isHome(element: Element | null): boolean {
  return element?.hasAttribute("data-frame") ?? false;
}

/** Whether something lies over the page that has all keys. Layers stand beside the page in the document: that itself is not
 * searched at every key. */
export function isLayerOpen(): boolean {
  return [...document.body.children].some(
    (one) => one.id !== "root" && (one.matches(LAYERS) || one.querySelector(LAYERS)),
  );
}

/** Gives the keyboard to what keys act on, unless it is in use. */
export function goHome() {
  if (isLayerOpen() || document.activeElement?.closest(FIELDS)) return;
  home?.focus({ preventScroll: true });
}
