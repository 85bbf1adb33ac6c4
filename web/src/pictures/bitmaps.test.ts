import { beforeEach, expect, test } from "vitest";
import { Bitmaps } from "./bitmaps";

let closed: string[] = [];

function kept(name: string, side = 5) {
  const bitmap = { width: side, height: side, close: () => closed.push(name) } as unknown as ImageBitmap;
  return { bitmap, version: name, size: "" };
}

beforeEach(() => {
  closed = [];
});

test("what was used longest ago is closed when space runs out, what is wanted never", () => {
  const bitmaps = new Bitmaps(300);
  bitmaps.want(new Set(["a"]));
  for (const name of ["a", "b", "c", "d"]) bitmaps.put(name, kept(name));
  expect(closed).toEqual(["b"]);
  bitmaps.want(new Set(["a", "d"]));
  for (const name of ["e", "f", "g"]) bitmaps.put(name, kept(name));
  expect(bitmaps.has("a") && bitmaps.has("d") && bitmaps.has("g")).toBe(true);
  expect(closed).toEqual(["b", "c", "e", "f"]);
});

test("wanted ones stay whatever they take, and go when they are not wanted any more", () => {
  const bitmaps = new Bitmaps(300);
  bitmaps.want(new Set(["large", "larger"]));
  bitmaps.put("large", kept("large", 20));
  bitmaps.put("larger", kept("larger", 30));
  expect(closed).toEqual([]);
  bitmaps.want(new Set());
  expect(closed).toEqual(["large", "larger"]);
  expect([...bitmaps.values()]).toEqual([]);
});

test("one that is made anew takes the place of the old one", () => {
  const bitmaps = new Bitmaps(300);
  bitmaps.put("a", kept("first"));
  bitmaps.put("a", kept("second"));
  expect(closed).toEqual(["first"]);
  expect(bitmaps.get("a")?.version).toBe("second");
});
