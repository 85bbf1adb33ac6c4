import { beforeEach, expect, test } from "vitest";
import { forgetTrail, noteBatch, noteStep, type Seen, stepOver } from "./trail";

const UNMARKED: Seen = [[1, { decision: "undecided", rating: 0 }]];
const KEPT: Seen = [[1, { decision: "keep" }]];
const RATED: Seen = [[1, { rating: 4 }]];

beforeEach(forgetTrail);

test("back and forward over what waits", () => {
  noteStep("a", UNMARKED, KEPT);
  noteStep("b", KEPT, RATED);
  expect(stepOver("undo", null)).toBe(KEPT);
  expect(stepOver("undo", null)).toBe(UNMARKED);
  expect(stepOver("undo", null)).toEqual([]);
  expect(stepOver("redo", null)).toBe(KEPT);
  expect(stepOver("redo", null)).toBe(RATED);
});

test("of what is journalled, only the action that is meant", () => {
  noteStep("a", UNMARKED, KEPT);
  noteBatch("a", 12);
  expect(stepOver("undo", 13)).toEqual([]);
  expect(stepOver("undo", 12)).toBe(UNMARKED);
});

test("what changed nothing is no step", () => {
  noteStep("a", UNMARKED, KEPT);
  noteStep("b", KEPT, KEPT);
  noteBatch("b", null);
  expect(stepOver("undo", null)).toBe(UNMARKED);
});

test("a new mark ends the way forward", () => {
  noteStep("a", UNMARKED, KEPT);
  stepOver("undo", null);
  noteStep("b", UNMARKED, RATED);
  expect(stepOver("redo", null)).toEqual([]);
});
