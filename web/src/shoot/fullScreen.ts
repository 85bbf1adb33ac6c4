/** The page on the whole screen. Not every browser lets it: that of a telephone never, others upon a key or a click. */

import { tell } from "./errors";

/** Whether the browser did it. */
export async function fillScreen() {
  try {
    await document.documentElement.requestFullscreen();
    return true;
  } catch {
    return false;
  }
}

export function leaveFullScreen() {
  if (document.fullscreenElement) void document.exitFullscreen();
}

export async function toggleFullScreen() {
  if (document.fullscreenElement) return leaveFullScreen();
  if (await fillScreen()) return;
  tell(new Error("The browser does not let Winnow fill the screen. Its own key may: F11 in most."));
}
