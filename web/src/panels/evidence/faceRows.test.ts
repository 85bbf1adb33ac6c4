import { expect, test } from "vitest";
import { type Row, standing } from "./faceRows";

function row(id: string, ...cells: [string | null, number | null][]): Row {
  return {
    id,
    title: id,
    short: id,
    cells: cells.map(([eyes, sigma]) => (eyes === "none" ? null : { x: 0, y: 0, reach: 1, eyes, sigma })),
  };
}

test("open eyes come before sharp ones", () => {
  const { best } = standing([row("a", ["closed", 0.5], ["open", 1.2], ["narrowed", 0.6])], new Set());
  expect(best.get("a")).toBe(1);
});

test("the frame that is best for most people", () => {
  const rows = [
    row("a", ["open", 0.8], ["closed", 0.8], ["open", 3]),
    row("b", ["open", 0.9], ["open", 0.7], ["open", 0.8]),
    row("c", ["none", null], ["closed", 1], ["open", 1]),
  ];
  expect(standing(rows, new Set()).frame).toBe(0);
  expect(standing(rows, new Set(["a"])).frame).toBe(2);
});

test("nobody to be seen, nothing to be said", () => {
  expect(standing([row("a", ["none", null])], new Set())).toEqual({ best: new Map(), frame: null });
});
