/** How bright it is around the pictures: a bright surround makes a dark picture look darker, so people switch. */

const SURROUNDS = ["dark", "mid", "light"];
const KEPT = "winnow.surround";

function current(): string {
  return localStorage.getItem(KEPT) ?? "dark";
}

/** The colour around pictures, for what is drawn and not styled. Asking the page for it at every picture would
 * make it work out all styles anew. */
export let room = "#191919";

export function showSurround(surround = current()) {
  document.documentElement.dataset.surround = surround;
  localStorage.setItem(KEPT, surround);
  room = getComputedStyle(document.documentElement).getPropertyValue("--color-room") || room;
  window.dispatchEvent(new Event("winnow:surround"));
}

export function nextSurround() {
  const at = SURROUNDS.indexOf(current());
  showSurround(SURROUNDS[(at + 1) % SURROUNDS.length]);
}
