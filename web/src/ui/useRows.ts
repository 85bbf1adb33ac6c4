import { type PartialKeys, useVirtualizer, type VirtualizerOptions } from "@tanstack/react-virtual";

type Options = PartialKeys<
  VirtualizerOptions<HTMLDivElement, Element>,
  "observeElementRect" | "observeElementOffset" | "scrollToFn"
>;

/** The rows of a long list that are near what is in sight. They are there in the same display frame in which somebody
 * scrolls: that a pause is over is told by the browser. A timer that looks for a pause may come between a scroll and
 * its event, takes that event's place, and leaves the window bare until React finds the time. */
export function useRows(options: Options) {
  return useVirtualizer({ ...options, useScrollendEvent: true });
}
