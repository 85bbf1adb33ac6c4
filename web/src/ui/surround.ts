/** How bright it is around the pictures: a bright surround makes a dark picture look darker, so people switch. */

import { changeSettings, SURROUNDS, settings, useSettings } from "./settings";

/** The colour around pictures, for what is drawn and not styled. Asking the page for it at every picture would
 * make it work out all styles anew. */
export let surroundColour = "#191919";

/** Shows the surround that is set, now and whenever it is changed. */
export function showSurround() {
  show();
  useSettings.subscribe((now, before) => now.surround !== before.surround && show());
}

function show() {
  document.documentElement.dataset.surround = settings().surround;
  const style = getComputedStyle(document.documentElement);
  surroundColour = style.getPropertyValue("--color-surround") || surroundColour;
}

export function nextSurround() {
  const at = SURROUNDS.indexOf(settings().surround);
  changeSettings({ surround: SURROUNDS[(at + 1) % SURROUNDS.length] });
}
