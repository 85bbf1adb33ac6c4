import { expect, test } from "vitest";
import { countedInWords, keyOfRow, newest, type SyncRow, settledBy, starsFromThere } from "./rules";

const row = (more: Partial<SyncRow>): SyncRow => ({
  frame_id: 1,
  field: "rating",
  side: "both",
  here: 1,
  there: 2,
  here_said: "1 star",
  base_said: "no stars",
  there_said: "2 stars",
  here_at: "2026-10-17T20:31:00Z",
  here_by: "person",
  file: "a.xmp",
  there_at: "2026-10-17T20:58:00Z",
  ...more,
});

test("the newer wins, whatever the form of the dates; without a date nobody does", () => {
  expect(newest(row({}))).toBe("theirs");
  expect(newest(row({ here_at: "2026-10-17T23:00:00+02:00" }))).toBe("ours");
  expect(newest(row({ here_at: null }))).toBe("later");
});

test("a rule by property leaves the others for later", () => {
  const rows = [row({}), row({ field: "label" }), row({ field: "caption" })];
  expect([...settledBy(rows, starsFromThere).values()]).toEqual(["theirs", "ours", "later"]);
  expect(keyOfRow(row({ frame_id: 7 }))).toBe("7 rating");
  expect(countedInWords([...rows, row({ frame_id: 2 })])).toBe("stars 2 · label 1 · caption 1");
});
