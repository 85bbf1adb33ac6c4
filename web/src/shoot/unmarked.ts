/** Frames as far as they are not a matter of marks: what shows only these need not be made anew at every mark. */

import { useMemo, useRef } from "react";
import type { Frame } from "../api/client";
import { type ShootState, useShoot } from "./store";

const MARKS = new Set<keyof Frame>(["decision", "rating", "label"]);

export function sameButMarks(one: Frame, other: Frame): boolean {
  if (one === other) return true;
  return (Object.keys(one) as (keyof Frame)[]).every((key) => MARKS.has(key) || one[key] === other[key]);
}

/** A frame as far as it is no matter of marks: the same one as long as only these change. */
export function useUnmarked(frame: Frame): Frame {
  const before = useRef(frame);
  if (!sameButMarks(before.current, frame)) before.current = frame;
  return before.current;
}

let indexed = "";
let groups = new Map<number, number[]>();

/** The ids of a group, in capture order. Of all groups it is found out together, when frames came or went or were
 * grouped otherwise: a mark must not walk over the whole shoot. */
function idsOf(group: number, { shootId, frames, geometry }: ShootState): number[] {
  const now = `${shootId} ${geometry} ${frames.size}`;
  if (now !== indexed) {
    groups = new Map();
    for (const frame of frames.values()) {
      const known = groups.get(frame.group);
      if (known) known.push(frame.id);
      else groups.set(frame.group, [frame.id]);
    }
    const position = (id: number) => frames.get(id)?.position ?? 0;
    for (const ids of groups.values()) ids.sort((a, b) => position(a) - position(b));
    indexed = now;
  }
  return groups.get(group) ?? [];
}

/** The first so many frames of a group that are in the shoot and can be read, in capture order; their marks may be
 * out of date. */
export function useGroupUnmarked(group: number, most: number): Frame[] {
  const select = useMemo(() => {
    let seen: Map<number, Frame> | undefined;
    let found: Frame[] = [];
    return (shoot: ShootState) => {
      const { frames } = shoot;
      if (frames === seen) return found;
      seen = frames;
      const now = idsOf(group, shoot)
        .map((id) => frames.get(id))
        .filter((frame) => frame !== undefined)
        .filter((frame) => frame.place === "shoot" && !frame.problem)
        .slice(0, most);
      const same = now.every((frame, at) => found[at] && sameButMarks(frame, found[at]));
      if (now.length !== found.length || !same) found = now;
      return found;
    };
  }, [group, most]);
  return useShoot(select);
}
