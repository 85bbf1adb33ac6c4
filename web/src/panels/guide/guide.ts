/** The first walk through the demo shoot: six steps, each done by doing it. */

import { create } from "zustand";
import { persist } from "zustand/middleware";
import { useAim } from "../../pictures/aimStore";
import { goToScreen } from "../../shoot/address";
import type { Act } from "../../shoot/outbox/entry";
import { useOutbox } from "../../shoot/outbox/outbox";
import { activeFrame, useShoot } from "../../shoot/store";
import { useWalk } from "../../shoot/walk/store";

interface Guide {
  /** How many steps are done; null: it is not on screen. */
  done: number | null;
  /** It was walked through, or the person did not want to. */
  left: boolean;
}

export const useGuide = create<Guide>()(
  persist((): Guide => ({ done: null, left: false }), {
    name: "winnow.guide",
    partialize: ({ left }) => ({ left, done: null }),
  }),
);

export interface Step {
  /** What to do; the key of the command comes after it. */
  text: string;
  command: string;
  /** What it is good for. */
  why: string;
  /** Watches for its being done, from how things are now. */
  watch: (onDone: () => void) => () => void;
}

/** Something was put into the outbox: it was done here. */
const onAct =
  (isIt: (act: Act) => boolean) =>
  (onDone: () => void): (() => void) =>
    useOutbox.subscribe(({ entries }, before) => {
      if (entries.length > before.entries.length && entries.slice(-1).some(({ act }) => isIt(act))) onDone();
    });

const onMark = (decision: string) => onAct((act) => act.kind === "mark" && act.decision === decision);

export const STEPS: Step[] = [
  {
    text: "Go to the next group",
    command: "next-group",
    why: "Frames that show the same thing stand side by side. Left and right lead from frame to frame.",
    watch: (onDone) =>
      useShoot.subscribe((now, before) => {
        if (activeFrame(now)?.group !== activeFrame(before)?.group) onDone();
      }),
  },
  {
    text: "Look closer",
    command: "zoom",
    why: "All frames of the group at 100 %, at what each is about; again: back to the whole.",
    watch: (onDone) =>
      useAim.subscribe((now, before) => {
        if (now.aim.scale !== "fit" && before.aim.scale === "fit") onDone();
      }),
  },
  {
    text: "Keep a good one",
    command: "keep",
    why: "The line at the bottom says what the next key acts on.",
    watch: onMark("keep"),
  },
  {
    text: "Reject another",
    command: "reject",
    why: "Nothing is deleted: rejects can be looked at, and leave by a plan that is shown first.",
    watch: onMark("reject"),
  },
  {
    text: "Take that back",
    command: "undo",
    why: "Every mark can be undone, also tomorrow.",
    watch: onAct((act) => act.kind === "undo"),
  },
  {
    text: "Begin a pass, and press Enter",
    command: "passes",
    why: "One question at a time, with the few keys it needs. Esc leads out, and you come back to where you were.",
    watch: (onDone) => useWalk.subscribe((now) => now.walk && onDone()),
  },
];

export function beginGuide() {
  useGuide.setState({ done: 0 });
  goToScreen("bench");
}

export function leaveGuide() {
  useGuide.setState({ done: null, left: true });
}

export function stepDone() {
  const { done } = useGuide.getState();
  if (done !== null) useGuide.setState({ done: done + 1 });
}
