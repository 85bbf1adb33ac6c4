import { expect, test } from "vitest";
import { Pace } from "./pace";

test("the pace is that of the last two minutes, and says nothing too early", () => {
  const pace = new Pace(0);
  expect(pace.perMinute(10_000)).toBeNull();
  for (let at = 1000; at <= 60_000; at += 1000) pace.note(at, 1);
  expect(pace.perMinute(60_000)).toBe(60);
  for (let at = 62_000; at <= 240_000; at += 2000) pace.note(at, 1);
  expect(pace.perMinute(240_000)).toBeCloseTo(30, 0);
  expect(pace.perMinute(400_000)).toBeNull();
});

test("pauses are no work", () => {
  const pace = new Pace(0);
  pace.note(10_000, 1);
  pace.note(3_610_000, 1);
  expect(pace.takeSeconds()).toBe(70);
  expect(pace.takeSeconds()).toBe(0);
});
