/** How bright it is around the pictures: a bright surround makes a dark picture look darker, so people switch. */

const SURROUNDS = ["dark", "mid", "light"];
const KEPT = "winnow.surround";

function current(): string {
  return localStorage.getItem(KEPT) ?? "dark";
}

export function showSurround(surround = current()) {
  document.documentElement.dataset.surround = surround;
  localStorage.setItem(KEPT, surround);
  window.dispatchEvent(new Event("winnow:surround"));
}

export function nextSurround() {
  const at = SURROUNDS.indexOf(current());
  showSurround(SURROUNDS[(at + 1) % SURROUNDS.length]);
}
