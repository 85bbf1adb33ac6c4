import { expect, test } from "vitest";
import { type Aim, aimed, dragged, heldIn, scaled, WHOLE } from "./aim";
import { place, pointAt } from "./zoom";

const SIZE = { width: 6000, height: 4000 };
const CELL = { width: 420, height: 280 };
const AIM: Aim = { ...WHOLE, scale: 1, frame: 1, point: { x: 3000, y: 1000 } };
const SURE = { x: 3300, y: 1200, confidence: 0.9, sure: true };

test("the same eye stands in the middle of every cell", () => {
  expect(aimed(AIM, 1, SIZE, SIZE, undefined)).toEqual({ scale: 1, x: 0.5, y: 0.25 });
  expect(aimed(AIM, 2, SIZE, SIZE, SURE)).toEqual({ scale: 1, x: 0.55, y: 0.3 });
});

test("an unsure place is not followed: the same relative place, in frames of other sizes too", () => {
  const unsure = { ...SURE, sure: false };
  expect(aimed(AIM, 2, { width: 3000, height: 2000 }, SIZE, unsure)).toEqual({ scale: 1, x: 0.5, y: 0.25 });
});

test("a drag moves all frames, with the modifier one, and that offset stays", () => {
  const alone = dragged(AIM, 2, 1, 60, 0, true);
  const both = dragged(alone, 1, 1, -120, 40, false);
  expect(aimed(both, 1, SIZE, SIZE, undefined).x).toBeCloseTo(0.5 + 120 / 6000);
  expect(aimed(both, 2, SIZE, SIZE, SURE).x).toBeCloseTo(0.55 + 60 / 6000);
  expect(aimed(both, 2, SIZE, SIZE, SURE).y).toBeCloseTo(0.3 - 40 / 4000);
});

test("the wheel keeps the point under the pointer", () => {
  const zoom = aimed(AIM, 1, SIZE, SIZE, undefined);
  const lies = place(SIZE, CELL, zoom);
  const at = { x: 300, y: 80 };
  const closer = scaled(AIM, 2, SIZE, CELL, lies, at);
  const now = place(SIZE, CELL, aimed(closer, 1, SIZE, SIZE, undefined));
  expect(closer.scale).toBe(2);
  const before = pointAt(lies, at.x, at.y);
  const after = pointAt(now, at.x, at.y);
  expect(after.x).toBeCloseTo(before.x, 3);
  expect(after.y).toBeCloseTo(before.y, 3);
});

test("zooming out ends at the whole frame", () => {
  const lies = place(SIZE, CELL, { scale: 0.1, x: 0.5, y: 0.5 });
  expect(scaled({ ...AIM, scale: 0.1 }, 0.2, SIZE, CELL, lies, { x: 9, y: 9 }).scale).toBe("fit");
});

test("a drag past the edge does not have to be dragged back", () => {
  const far = dragged(AIM, 1, 1, 9000, 0, false);
  const held = heldIn(far, aimed(far, 1, SIZE, SIZE, undefined), SIZE, CELL);
  expect(aimed(held, 1, SIZE, SIZE, undefined).x).toBeCloseTo(CELL.width / 2 / 6000);
});
