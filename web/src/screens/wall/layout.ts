/** Justified rows: frames in order, broken at sections, with a wider gap between groups where these stand together. */

import type { Frame } from "../../api/client";

export const FRAME_GAP = 3;
export const GROUP_GAP = 16;
export const BRACKET = 24;
export const HEADING = 34;

export interface Cell {
  frame: Frame;
  left: number;
  width: number;
}

/** The part of a group that lies in one row; `opens` where the group starts here. */
export interface Run {
  group: number;
  left: number;
  width: number;
  opens: boolean;
  closes: boolean;
  first: Frame;
  count: number;
}

export interface Row {
  cells: Cell[];
  runs: Run[];
  /** Height of the pictures. */
  height: number;
  heading: Frame | null;
  /** Height with heading and bracket. */
  total: number;
}

/** How the wall is laid out. */
export interface Plan {
  /** What a row must not go across, with a heading above; undefined: there is no such thing. */
  sectionOf?: (frame: Frame) => number | string | null;
  /** Frames of a group stand together. */
  grouped: boolean;
  /** Room for words below each row, px. */
  below: number;
}

export const BY_TIME: Plan = { sectionOf: ({ scene }) => scene, grouped: true, below: BRACKET };

const SHAPE_UNKNOWN = 1.5;

export function aspect(frame: Frame): number {
  if (!frame.width || !frame.height) return SHAPE_UNKNOWN;
  // Panoramas and strips are shown as far as a row can hold them.
  return Math.min(4, Math.max(0.4, frame.width / frame.height));
}

/** Rows for a wall of `width` px with pictures about `target` px high. */
export function layOut(frames: Frame[], width: number, target: number, plan = BY_TIME): Row[] {
  const { sectionOf = () => null, grouped, below } = plan;
  const gap = (one: Frame, other: Frame) => (!grouped || one.group === other.group ? FRAME_GAP : GROUP_GAP);
  const counts = new Map<number, number>();
  for (const frame of frames) counts.set(frame.group, (counts.get(frame.group) ?? 0) + 1);
  const rows: Row[] = [];
  let line: Frame[] = [];
  let sum = 0;
  let gaps = 0;
  let heading: Frame | null = (plan.sectionOf && frames[0]) ?? null;
  const flush = (justify: boolean) => {
    if (!line.length) return;
    const height = justify ? (width - gaps) / sum : Math.min(target, (width - gaps) / sum);
    rows.push(makeRow(line, height, heading, rows.at(-1), counts, gap, below));
    line = [];
    sum = 0;
    gaps = 0;
    heading = null;
  };
  for (const frame of frames) {
    const before = line.at(-1);
    const above = before ?? rows.at(-1)?.cells.at(-1)?.frame;
    if (above && sectionOf(above) !== sectionOf(frame)) {
      flush(false);
      heading = frame;
    }
    const last = line.at(-1);
    gaps += last ? gap(last, frame) : 0;
    line.push(frame);
    sum += aspect(frame);
    if (sum * target + gaps >= width) flush(true);
  }
  flush(false);
  return rows;
}

function makeRow(
  line: Frame[],
  height: number,
  heading: Frame | null,
  above: Row | undefined,
  counts: Map<number, number>,
  gap: (one: Frame, other: Frame) => number,
  below: number,
): Row {
  const cells: Cell[] = [];
  const runs: Run[] = [];
  let left = 0;
  for (const [index, frame] of line.entries()) {
    const before = line[index - 1];
    if (before) left += gap(before, frame);
    const width = aspect(frame) * height;
    cells.push({ frame, left, width });
    let run = runs.at(-1);
    if (run?.group !== frame.group) {
      const opens = above?.cells.at(-1)?.frame.group !== frame.group || index > 0;
      run = {
        group: frame.group,
        left,
        width: 0,
        opens,
        closes: true,
        first: frame,
        count: counts.get(frame.group) ?? 1,
      };
      runs.push(run);
    }
    left += width;
    run.width = left - run.left;
  }
  const carried = above?.runs.at(-1);
  if (carried && carried.group === runs[0]?.group) carried.closes = false;
  return { cells, runs, height, heading, total: height + below + (heading ? HEADING : 0) };
}
