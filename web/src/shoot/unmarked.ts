/** Frames as far as they are not a matter of marks: what shows only these need not be made anew at every mark. */

import { useMemo } from "react";
import type { Frame } from "../api/client";
import { useShoot } from "./store";

const MARKS = new Set<keyof Frame>(["decision", "rating", "label"]);

export function sameButMarks(one: Frame, other: Frame): boolean {
  if (one === other) return true;
  return (Object.keys(one) as (keyof Frame)[]).every((key) => MARKS.has(key) || one[key] === other[key]);
}

/** The first so many frames of a group that are in the shoot and can be read, in capture order; their marks may be
 * out of date. */
export function useGroupUnmarked(group: number, most: number): Frame[] {
  const select = useMemo(() => {
    let seen: Map<number, Frame> | undefined;
    let found: Frame[] = [];
    return ({ frames }: { frames: Map<number, Frame> }) => {
      if (frames === seen) return found;
      seen = frames;
      const now = [...frames.values()]
        .filter((frame) => frame.group === group && frame.place === "shoot" && !frame.problem)
        .sort((a, b) => a.position - b.position)
        .slice(0, most);
      const same = now.every((frame, at) => found[at] && sameButMarks(frame, found[at]));
      if (now.length !== found.length || !same) found = now;
      return found;
    };
  }, [group, most]);
  return useShoot(select);
}
