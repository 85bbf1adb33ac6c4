import { expect, test } from "vitest";
import { toOverlay } from "./overlays";

function pixels(width: number, height: number, grey: (x: number, y: number) => number) {
  const data = new Uint8ClampedArray(4 * width * height);
  for (let at = 0; at < width * height; at++) {
    const level = grey(at % width, Math.floor(at / width));
    data.set([level, level, level, 255], 4 * at);
  }
  return { data, width, height };
}

const lit = ({ data }: { data: Uint8ClampedArray }) =>
  Array.from({ length: data.length / 4 }, (_, at) => at).filter((at) => data[4 * at + 3] === 255);

test("an edge is lit where it is steep, a slope is not", () => {
  const edge = pixels(9, 3, (x) => (x < 4 ? 60 : 160));
  toOverlay(edge, { peaking: true, clipping: false });
  expect(lit(edge)).toEqual([12, 13]);
  const slope = pixels(9, 3, (x) => 20 * x);
  toOverlay(slope, { peaking: true, clipping: false });
  expect(lit(slope)).toEqual([]);
});

test("what is burnt or blocked is hatched, all of it and nothing else", () => {
  const tones = pixels(3, 1, (x) => [255, 128, 0][x] ?? 0);
  toOverlay(tones, { peaking: false, clipping: true });
  expect(lit(tones)).toEqual([0, 2]);
});
