/** Running through what is in view, full screen: by a timer or by key. Marks work as always. */

import { create } from "zustand";
import { changeSettings, settings } from "../ui/settings";
import { goToScreen } from "./address";
import { fillScreen, leaveFullScreen } from "./fullScreen";

const LONGEST_S = 10;

interface RunThrough {
  on: boolean;
  /** Said for a moment: how long each frame stays. */
  note: string | null;
}

export const useRunThrough = create<RunThrough>(() => ({ on: false, note: null }));

const NOTE_MS = 1400;
let timer: ReturnType<typeof setTimeout> | undefined;

function say(note: string) {
  useRunThrough.setState({ note });
  clearTimeout(timer);
  timer = setTimeout(() => useRunThrough.setState({ note: null }), NOTE_MS);
}

export function toggleRunThrough() {
  if (useRunThrough.getState().on) return endRunThrough();
  useRunThrough.setState({ on: true });
  goToScreen("bench");
  void fillScreen();
  say(inWords());
}

export function endRunThrough() {
  useRunThrough.setState({ on: false, note: null });
  leaveFullScreen();
}

/** Each frame stays a second longer (+1) or shorter; less than one second: frames come by key. */
export function changeStay(by: 1 | -1) {
  changeSettings({ staySeconds: Math.min(LONGEST_S, Math.max(0, settings().staySeconds + by)) });
  say(inWords());
}

function inWords(): string {
  const { staySeconds } = settings();
  return staySeconds ? `${staySeconds} s a frame` : "by key";
}
