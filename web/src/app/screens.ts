/** The screens of a shoot, in the order of their tabs. */

export const SCREENS = [
  { screen: "wall", title: "Wall" },
  { screen: "bench", title: "Bench" },
  { screen: "handoff", title: "Handoff" },
  { screen: "sync", title: "Sync" },
] as const;

export type Screen = (typeof SCREENS)[number]["screen"];

/** Whether frames are marked on a screen. */
export function hasFrames(screen: Screen): boolean {
  return screen === "wall" || screen === "bench";
}
