import { expect, test } from "vitest";
import { GAP, runLength, STRIP, type Tile, tiled, USEFUL_WIDTH, windows } from "./tiling";

const STAGE = { width: 860, height: 700 };

function overlap(one: Tile, other: Tile) {
  return (
    one.left < other.left + other.width &&
    other.left < one.left + one.width &&
    one.top < other.top + other.height + STRIP &&
    other.top < one.top + one.height + STRIP
  );
}

test.each([1, 2, 3, 5, 6, 7, 12])("%i pictures keep their shapes, lie inside and apart", (count) => {
  const ratios = Array.from({ length: count }, (_, n) => (n % 3 === 2 ? 2 / 3 : 3 / 2));
  const tiles = tiled(ratios, STAGE);
  expect(tiles).toHaveLength(count);
  tiles.forEach((tile, n) => {
    expect(tile.width / tile.height).toBeCloseTo(ratios[n] ?? 0, 1);
    expect(tile.left).toBeGreaterThanOrEqual(-1);
    expect(tile.left + tile.width).toBeLessThanOrEqual(STAGE.width + 1);
    expect(tile.top + tile.height + STRIP).toBeLessThanOrEqual(STAGE.height + 1);
    for (const other of tiles.slice(n + 1)) expect(overlap(tile, other)).toBe(false);
  });
});

test("one picture fills the stage, two landscapes lie one above the other on a tall stage", () => {
  const [one] = tiled([1.5], STAGE);
  expect(one?.width).toBe(860);
  const [first, second] = tiled([1.5, 1.5], { width: 500, height: 800 });
  expect(second?.top).toBe((first?.top ?? 0) + (first?.height ?? 0) + STRIP + GAP);
});

test("the shorter row comes last", () => {
  const tops = tiled([1.5, 1.5, 1.5], STAGE).map((tile) => tile.top);
  expect(tops[0]).toBe(tops[1]);
  expect(tops[2]).toBeGreaterThan(tops[1] ?? 0);
});

test("pictures of one shape are equally high where that costs little, none alone in a row", () => {
  const tiles = tiled(
    Array.from({ length: 7 }, () => 1.5),
    { width: 2150, height: 1310 },
  );
  expect(new Set(tiles.map((tile) => tile.height)).size).toBe(1);
  for (const tile of tiles) expect(tiles.filter((other) => other.top === tile.top).length).toBeGreaterThan(1);
});

test("long groups come in runs of pictures that are large enough", () => {
  const ratios = Array.from({ length: 40 }, () => 1.5);
  const length = runLength(ratios, STAGE);
  expect(length).toBeGreaterThanOrEqual(4);
  for (const tile of tiled(ratios.slice(0, length), STAGE))
    expect(tile.width).toBeGreaterThanOrEqual(USEFUL_WIDTH);
  expect(runLength([1.5, 1.5], { width: 200, height: 300 })).toBe(2);
});

test.each([1, 2, 3, 5, 6, 7, 12])("%i windows take the stage whole, lie inside and apart", (count) => {
  const tiles = windows(count, STAGE);
  expect(tiles).toHaveLength(count);
  tiles.forEach((tile, n) => {
    expect(tile.left + tile.width).toBeLessThanOrEqual(STAGE.width);
    expect(tile.top + tile.height + STRIP).toBeLessThanOrEqual(STAGE.height);
    for (const other of tiles.slice(n + 1)) expect(overlap(tile, other)).toBe(false);
  });
  const covered = tiles.reduce((sum, tile) => sum + (tile.width + GAP) * (tile.height + STRIP + GAP), 0);
  expect(covered / (STAGE.width * STAGE.height)).toBeGreaterThan(0.97);
});
