import { describe, expect, it } from "vitest";
import { fitSize, place, pointAt, type Zoom } from "./zoom";

const FIT: Zoom = { scale: "fit", x: 0.5, y: 0.5 };

const picture = { width: 6000, height: 4000 };
const stage = { width: 900, height: 700 };

describe("a picture on the stage", () => {
  it("fits whole and centred", () => {
    expect(place(picture, stage, FIT)).toEqual({ scale: 0.15, width: 900, height: 600, left: 0, top: 50 });
  });

  it("lies as the bitmap lies that is made for it, to the pixel", () => {
    for (const cell of [
      { width: 877, height: 643 },
      { width: 878, height: 644 },
      { width: 500, height: 641 },
    ])
      for (const size of [picture, { width: 4000, height: 6000 }, { width: 1296, height: 863 }]) {
        const made = fitSize(size, cell);
        const { left, top, width, height } = place(size, cell, FIT);
        expect({ width, height }).toEqual(made);
        expect(left).toBe(Math.round((cell.width - made.width) / 2));
        expect(top).toBe(Math.round((cell.height - made.height) / 2));
      }
  });

  it("keeps the point under the pointer in the middle at 100 %", () => {
    const point = pointAt(place(picture, stage, FIT), 300, 350);
    const zoomed = place(picture, stage, { scale: 1, ...point });
    const back = pointAt(zoomed, stage.width / 2, stage.height / 2);
    expect(back.x).toBeCloseTo(1 / 3, 3);
    expect(back.y).toBeCloseTo(0.5, 3);
  });

  it("never shows beyond the edges", () => {
    const corner = place(picture, stage, { scale: 1, x: 0, y: 1 });
    expect(corner.left).toBe(0);
    expect(corner.top).toBe(700 - 4000);
  });
});
