import { expect, test } from "vitest";
import type { Marked } from "../../api/client";
import { type Act, type Entry, informed, renewed, unmeant, waitingOn } from "./entry";

function entry(id: number, act: Act, more: Partial<Entry> = {}): Entry {
  return { id, key: `key-${id}`, library: "here", shootId: 1, at: 0, act, shows: [], ...more };
}

function answer(undo: number | null, redo: number | null): Marked {
  const step = (batch: number | null) => batch && { batch, title: "something", walk: null };
  return {
    frames: [],
    title: null,
    batch: null,
    revision: 1,
    view: {} as Marked["view"],
    actions: { undo: step(undo) || null, redo: step(redo) || null },
  };
}

test("later marks lie over earlier ones, each field by itself", () => {
  const entries = [
    entry(1, { kind: "mark", frameIds: [7, 8], decision: "keep" }),
    entry(2, { kind: "mark", frameIds: [7], rating: 3 }),
    entry(3, { kind: "mark", frameIds: [7], decision: "reject" }),
  ];
  expect(waitingOn(entries, 1)).toEqual(
    new Map([
      [7, { decision: "reject", rating: 3 }],
      [8, { decision: "keep" }],
    ]),
  );
});

test("what an undo shows lies over what it takes back", () => {
  const entries = [
    entry(1, { kind: "mark", frameIds: [7], rating: 5 }),
    entry(2, { kind: "undo", batch: null }, { shows: [[7, { decision: "undecided", rating: 0 }]] }),
  ];
  expect(waitingOn(entries, 1).get(7)?.rating).toBe(0);
});

test("refused marks and those of other shoots are not shown", () => {
  const entries = [
    entry(1, { kind: "mark", frameIds: [7], rating: 5 }, { refused: "no such frame" }),
    entry(2, { kind: "mark", frameIds: [8], rating: 5 }, { shootId: 2 }),
  ];
  expect(waitingOn(entries, 1).size).toBe(0);
});

test("an undo of the last action knows it once that is journalled", () => {
  const next = entry(2, { kind: "undo", batch: null });
  expect(informed(next, answer(41, null))?.act).toEqual({ kind: "undo", batch: 41 });
  expect(informed(entry(3, { kind: "redo", batch: null }), answer(41, 42))?.act).toEqual({
    kind: "redo",
    batch: 42,
  });
  expect(informed(entry(4, { kind: "undo", batch: 12 }), answer(41, null))).toBeUndefined();
  expect(informed(entry(5, { kind: "mark", frameIds: [1], rating: 1 }), answer(41, null))).toBeUndefined();
});

test("an undo of what was refused takes nothing else back", () => {
  expect(unmeant(entry(2, { kind: "undo", batch: null }))?.act).toEqual({ kind: "undo", batch: 0 });
});

test("what an earlier version put in means the same", () => {
  const earlier = JSON.parse(
    JSON.stringify([
      entry(1, { kind: "mark", frameIds: [7], decision: "keep" }),
      entry(
        2,
        { kind: "keep-lead", frameId: 7, rejectRest: true, among: [7] },
        { shows: [[7, { decision: "keep" }]] },
      ),
    ])
      .replaceAll('"keep"', '"pick"')
      .replaceAll("keep-lead", "accept-lead"),
  );
  expect(earlier.map(renewed)).toEqual([
    entry(1, { kind: "mark", frameIds: [7], decision: "keep" }),
    entry(
      2,
      { kind: "keep-lead", frameId: 7, rejectRest: true, among: [7] },
      { shows: [[7, { decision: "keep" }]] },
    ),
  ]);
});
