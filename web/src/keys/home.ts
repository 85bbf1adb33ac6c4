/** The element that keys act on: it has the keyboard whenever nothing else needs it, and so is announced as it changes. */

import { type RefObject, useLayoutEffect } from "react";

/** While one of these is open, every key is its own. */
export const LAYERS = "[role=menu], [role=dialog], [role=alertdialog], [role=listbox]";
/** What is typed into, or moved by keys. */
export const FIELDS = "input, textarea, select, [contenteditable=true], [role=slider]";

let home: HTMLElement | null = null;

/** Makes an element the one that keys act on, for as long as `isHome`. `name`: what it shows; another is announced anew. */
export function useHome(element: RefObject<HTMLElement | null>, isHome: boolean, name: number) {
  // biome-ignore lint/correctness/useExhaustiveDependencies: another name is another thing in the same element
  useLayoutEffect(() => {
    const here = element.current;
    if (!isHome || !here) return;
    home = here;
    if (document.activeElement === here) here.blur();
    goHome();
    return () => {
      if (home === here) home = null;
    };
  }, [element, isHome, name]);
}

export function isHome(element: Element | null): boolean {
  return element !== null && element === home;
}

/** Gives the keyboard to what keys act on, unless it is in use. */
export function goHome() {
  if (document.querySelector(LAYERS) || document.activeElement?.closest(FIELDS)) return;
  home?.focus({ preventScroll: true });
}
