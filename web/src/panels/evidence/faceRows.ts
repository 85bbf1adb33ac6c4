/** What the face table shows: who is in which frame, how the eyes are, how sharp, and where it is best. */

import type { Evidence, Frame } from "../../api/client";
import { sizeOf } from "../../pictures/zoom";

export interface TableCellOf {
  /** Middle of what is shown and half its side, px of the full picture. */
  x: number;
  y: number;
  reach: number;
  /** open, narrowed, closed, unknown; null where there are no eyes to speak of. */
  eyes: string | null;
  sigma: number | null;
}

export interface Row {
  id: string;
  title: string;
  short: string;
  cells: (TableCellOf | null)[];
}

export interface Place {
  title: string;
  at: Map<number, { x: number; y: number }>;
}

const FACE_MARGIN = 0.62;
/** Half the side of what is shown of a point, of the long edge. */
const PLACE_REACH = 0.035;
const WORST = ["closed", "narrowed", "open", "unknown"];
/** σ up to this many times the best of the row is as good, as where the evidence ranks frames. */
const ALIKE = 1.4;

export function rowsOf(frames: Frame[], evidence: (Evidence | undefined)[], places: Place[]): Row[] {
  const people = new Set(evidence.flatMap((found) => found?.faces?.map((face) => face.person) ?? []));
  const faces = [...people]
    .sort((a, b) => a - b)
    .map(
      (person): Row => ({
        id: `person ${person}`,
        title: `Person ${person + 1}`,
        short: String(person + 1),
        cells: evidence.map((found) => {
          const face = found?.faces?.find((one) => one.person === person);
          if (!face) return null;
          const [x0, y0, x1, y1] = face.box;
          return {
            x: (x0 + x1) / 2,
            y: (y0 + y1) / 2,
            reach: Math.max(x1 - x0, y1 - y0) * FACE_MARGIN,
            eyes: WORST.find((state) => face.eyes.some((eye) => eye.state === state)) ?? null,
            sigma: face.sigma_px,
          };
        }),
      }),
    );
  const others = places.map(
    ({ title, at }, number): Row => ({
      id: `place ${title}`,
      title,
      short: title === "Subject" ? "◎" : `+${number + (places[0]?.title === "Subject" ? 0 : 1)}`,
      cells: frames.map((frame, index) => {
        const point = at.get(frame.id);
        if (!point) return null;
        const { width, height } = sizeOf(frame);
        const reach = PLACE_REACH * Math.max(width, height);
        return { ...point, reach, eyes: null, sigma: sigmaAt(evidence[index], point) };
      }),
    }),
  );
  return [...faces, ...others];
}

/** σ of the tile at a point. */
function sigmaAt(evidence: Evidence | undefined, point: { x: number; y: number }): number | null {
  const focus = evidence?.focus;
  if (!focus) return null;
  const row = focus.sigma_px[Math.floor(point.y / focus.tile_px)];
  return row?.[Math.floor(point.x / focus.tile_px)] ?? null;
}

/** The best cell of each row, and the frame that is best for most rows (numbers of columns). Open eyes come
 * before sharp ones; cells that are about as sharp as the best are as good for the frame. */
export function standing(rows: Row[], out: Set<string>): { best: Map<string, number>; frame: number | null } {
  const best = new Map<string, number>();
  const wins = new Map<number, number>();
  for (const row of rows) {
    if (out.has(row.id)) continue;
    const worth = row.cells.map((cell) =>
      cell ? (cell.eyes === "closed" ? 2 : cell.eyes === "narrowed" ? 1 : 0) : 3,
    );
    const least = Math.min(...worth);
    if (least === 3) continue;
    const blur = row.cells.map((cell, at) =>
      cell && worth[at] === least ? (cell.sigma ?? 99) : Number.POSITIVE_INFINITY,
    );
    const sharpest = Math.min(...blur);
    best.set(row.id, blur.indexOf(sharpest));
    blur.forEach((sigma, at) => {
      if (sigma <= ALIKE * Math.max(sharpest, 0.5)) wins.set(at, (wins.get(at) ?? 0) + 1);
    });
  }
  // Of frames that win as many rows, the one with the sharpest best cells.
  const most = Math.max(0, ...wins.values());
  const winners = [...wins].filter(([, count]) => count === most).map(([at]) => at);
  const bests = (at: number) => [...best.values()].filter((b) => b === at).length;
  winners.sort((a, b) => bests(b) - bests(a) || a - b);
  return { best, frame: rows.length && winners.length ? (winners[0] ?? null) : null };
}

export function tableFrom(rows: Row[]): string {
  return rows.some((row) => row.id.startsWith("person")) ? "Faces" : "Places";
}
