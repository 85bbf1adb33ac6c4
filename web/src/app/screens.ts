/** The screens of a shoot, in the order of their tabs. */

export const SCREENS = [
  { screen: "wall", title: "Wall" },
  { screen: "bench", title: "Bench" },
  { screen: "handoff", title: "Handoff" },
] as const;

export type Screen = (typeof SCREENS)[number]["screen"];
