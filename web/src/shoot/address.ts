/** The addresses of the screens of a shoot. */

import { navigate } from "wouter/use-browser-location";
import { useShoot } from "./store";

export function addressOf(shootId: number, screen: string): string {
  return `/shoots/${shootId}/${screen}`;
}

/** Goes to a screen of the shoot that is open. */
export function goToScreen(screen: string) {
  navigate(addressOf(useShoot.getState().shootId, screen));
}

/** A second window that shows the active frame large. */
export function openLargeView() {
  const { shootId } = useShoot.getState();
  window.open(addressOf(shootId, "large"), `winnow-large-${shootId}`, "popup,width=1200,height=800");
}
