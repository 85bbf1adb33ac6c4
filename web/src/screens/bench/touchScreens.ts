/** Gestures look once, as they are loaded, whether there is a touch screen. A pen display may be plugged in later: they
 * are to listen to fingers in any case. */

if (!("ontouchstart" in window))
  Object.defineProperty(window, "ontouchstart", { value: null, writable: true });

export {};
