import { expect, test } from "vitest";
import { partsWithin } from "./parts";

const size = { width: 6000, height: 4000 };
const SPACE = 580e6;

test("six of 24 megapixels are decoded whole, twelve in parts around what is looked at", () => {
  const at = { x: 4000, y: 1000 };
  expect(partsWithin(SPACE, Array(6).fill({ size, at }))).toEqual(Array(6).fill(undefined));
  const parts = partsWithin(SPACE, Array(12).fill({ size, at }));
  const bytes = parts.reduce((sum, part) => sum + 4 * (part?.width ?? 0) * (part?.height ?? 0), 0);
  expect(bytes).toBeLessThanOrEqual(SPACE);
  expect(bytes).toBeGreaterThan(0.95 * SPACE);
  for (const part of parts) {
    if (!part) throw new Error("there is no room for all");
    expect(part.left + part.width).toBeLessThanOrEqual(size.width);
    expect(at.x - part.left).toBeGreaterThan(part.width / 4);
    expect(part.top).toBe(0);
  }
});

test("a picture that is moved a little needs no other part", () => {
  const where = (x: number) => partsWithin(SPACE, Array(12).fill({ size, at: { x, y: 2000 } }))[0];
  expect(where(3010)).toEqual(where(3100));
  expect(where(3010)).not.toEqual(where(3700));
});

test("a part that is there is kept while what is looked at lies well within it", () => {
  const [had] = partsWithin(SPACE, Array(12).fill({ size, at: { x: 3010, y: 2000 } }));
  const where = (x: number) => partsWithin(SPACE, Array(12).fill({ size, at: { x, y: 2000 }, had }))[0];
  expect(where(3700)).toEqual(had);
  expect(where(5200)).not.toEqual(had);
});
