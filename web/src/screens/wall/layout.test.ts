import { describe, expect, it } from "vitest";
import type { Frame } from "../../api/client";
import { FRAME_GAP, GROUP_GAP, layOut } from "./layout";

function frame(id: number, group: number, scene = 0, portrait = false): Frame {
  return {
    id,
    name: `${id}.jpg`,
    position: id,
    scene,
    group,
    captured_at: null,
    width: portrait ? 4000 : 6000,
    height: portrait ? 6000 : 4000,
    version: String(id),
    stage: "preview",
    problem: null,
    place: "shoot",
    note: null,
    decision: "undecided",
    rating: 0,
    label: null,
    turn: 0,
    roles: ["picture"],
    bracket: false,
    lead: false,
    faces: null,
    people: [],
    warnings: [],
    judged: null,
    copies: 0,
    profiled: false,
    again: false,
    original: null,
    edited: false,
    incoming: false,
    proposed: null,
  };
}

const many = Array.from({ length: 500 }, (_, n) =>
  frame(n, Math.floor(n / 7), Math.floor(n / 60), n % 5 === 0),
);

describe("rows of the wall", () => {
  it("hold every frame once, in order", () => {
    const ids = layOut(many, 1000, 150).flatMap((row) => row.cells.map((cell) => cell.frame.id));
    expect(ids).toEqual(many.map((f) => f.id));
  });

  it("fill the width exactly, but for the last of a scene, and never overlap", () => {
    for (const row of layOut(many, 1000, 150)) {
      const last = row.cells.at(-1);
      expect(last && last.left + last.width).toBeLessThanOrEqual(1000.01);
      for (const [n, cell] of row.cells.entries()) {
        const before = row.cells[n - 1];
        if (!before) continue;
        const gap = before.frame.group === cell.frame.group ? FRAME_GAP : GROUP_GAP;
        expect(cell.left).toBeCloseTo(before.left + before.width + gap, 6);
      }
      expect(row.height).toBeLessThanOrEqual(150.01);
      expect(row.height).toBeGreaterThan(60);
    }
  });

  it("keep the shape of every picture", () => {
    for (const row of layOut(many, 1000, 150)) {
      for (const { frame: f, width } of row.cells) {
        expect(width / row.height).toBeCloseTo((f.width ?? 0) / (f.height ?? 1), 6);
      }
    }
  });

  it("start anew at a scene and bracket each group once", () => {
    const rows = layOut(many, 1000, 150);
    expect(rows.filter((row) => row.heading).map((row) => row.heading?.scene)).toEqual([
      0, 1, 2, 3, 4, 5, 6, 7, 8,
    ]);
    const opened = rows.flatMap((row) => row.runs.filter((run) => run.opens).map((run) => run.group));
    expect(new Set(opened).size).toBe(opened.length);
    for (const row of rows) expect(new Set(row.cells.map((cell) => cell.frame.scene)).size).toBe(1);
  });
});
