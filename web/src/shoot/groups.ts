import type { Frame, Warned } from "../api/client";

/** Frames in view that show the same thing, with how far they are decided. */
export interface Group {
  group: number;
  first: Frame;
  /** The frame that stands for the group: the one the evidence ranks first, else the first that can be shown. */
  shown: Frame | null;
  last: Frame;
  ids: number[];
  keepers: number;
  rejects: number;
  /** Frames that the evidence warns of and that are not rejected. */
  warned: number;
  /** Of what. */
  warnings: Set<Warned>;
  /** An exposure bracket. */
  bracket: boolean;
}

/** The groups of the visible frames, in capture order. */
export function groupsOf(visible: number[], frames: Map<number, Frame>): Group[] {
  const groups: Group[] = [];
  for (const id of visible) {
    const frame = frames.get(id);
    if (!frame) continue;
    let group = groups.at(-1);
    if (group?.group !== frame.group) {
      group = {
        group: frame.group,
        first: frame,
        shown: null,
        last: frame,
        ids: [],
        keepers: 0,
        rejects: 0,
        warned: 0,
        warnings: new Set(),
        bracket: frame.bracket,
      };
      groups.push(group);
    }
    group.ids.push(id);
    group.last = frame;
    if (!frame.problem && (frame.lead || !group.shown)) group.shown = frame;
    if (frame.decision === "keep") group.keepers++;
    if (frame.decision === "reject") group.rejects++;
    else if (frame.warnings.length) {
      group.warned++;
      for (const warning of frame.warnings) group.warnings.add(warning);
    }
  }
  return groups;
}
