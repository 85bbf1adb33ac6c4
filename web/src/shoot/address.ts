/** The addresses of the screens of a shoot. */

import { navigate } from "wouter/use-browser-location";
import { type Filter, filterOfAddress, showsAll } from "./filter";
import { useShoot } from "./store";

/** Where somebody is in a shoot. */
export interface Here {
  filter: Filter;
  filterOn: boolean;
  frame: number | null;
}

export function addressOf(shootId: number, screen: string): string {
  return `/shoots/${shootId}/${screen}`;
}

/** The part of an address after the screen. */
export function searchOf({ filter, filterOn, frame }: Here): URLSearchParams {
  const off: [string, string][] = filterOn || showsAll(filter) ? [] : [["filter", "off"]];
  const at: [string, string][] = frame === null ? [] : [["frame", String(frame)]];
  const show: [string, string][] = filter.show ? [["show", filter.show]] : [];
  return new URLSearchParams([...show, ...off, ...at]);
}

export function hereOf(address: URLSearchParams): Here {
  const frame = Number(address.get("frame"));
  return {
    filter: filterOfAddress(address),
    filterOn: address.get("filter") !== "off",
    frame: Number.isSafeInteger(frame) && frame > 0 ? frame : null,
  };
}

/** Goes to a screen of the shoot that is open. Where Back would lead there, it is gone back to: to and fro between two
 * screens does not fill the history. */
export function goToScreen(screen: string) {
  const from = window.location.pathname.split("/")[3] ?? "";
  if (from === screen) return;
  if (window.history.state?.below === screen) return window.history.back();
  const to = addressOf(useShoot.getState().shootId, screen);
  navigate(to + window.location.search, { state: { below: from } });
}

/** A second window that shows the active frame large. */
export function openLargeView() {
  const { shootId } = useShoot.getState();
  window.open(addressOf(shootId, "large"), `winnow-large-${shootId}`, "popup,width=1200,height=800");
}
