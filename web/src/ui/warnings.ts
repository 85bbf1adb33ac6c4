/** What the evidence warns of, in words. */

import type { Warned } from "../api/client";

export const WARNING_ORDER: Warned[] = ["missed", "soft", "moved", "shake", "eyes", "under", "over", "black"];

export const WARNING_WORDS: Record<Warned, string> = {
  missed: "focus missed",
  soft: "soft",
  moved: "subject moved",
  shake: "shaken",
  eyes: "eyes closed",
  under: "dark",
  over: "bright",
  black: "black",
};
