/** Points that somebody put down to be compared across a group, kept as long as the page. */

import { create } from "zustand";
import type { Frame } from "../../api/client";
import type { Point } from "../../pictures/aim";

export interface Mark extends Point {
  frame: number;
}

interface TableState {
  /** Points by group. */
  points: Map<number, Mark[]>;
  /** Rows that do not count, by group. */
  out: Map<number, Set<string>>;
}

export const useTable = create<TableState>(() => ({ points: new Map(), out: new Map() }));

/** Puts a point of a frame (px of the full picture) down: a row of the table shows it in every frame. */
export function putPoint(frame: Frame, point: Point) {
  const { points } = useTable.getState();
  const here = points.get(frame.group) ?? [];
  useTable.setState({
    points: new Map(points).set(frame.group, [...here, { ...point, frame: frame.id }]),
  });
}

/** Leaves a row out of what counts, or takes it in again. */
export function toggleRow(group: number, row: string) {
  const { out } = useTable.getState();
  const rows = new Set(out.get(group));
  if (!rows.delete(row)) rows.add(row);
  useTable.setState({ out: new Map(out).set(group, rows) });
}
