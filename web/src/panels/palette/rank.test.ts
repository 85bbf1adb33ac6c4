import { expect, test } from "vitest";
import { misfit } from "./rank";

const NAMES = [
  "Keep",
  "Keep the lead, leave the rest",
  "Label: Retouch",
  "Blur map over the picture",
  "Scene 12, 17:05",
];

function best(typed: string): string | undefined {
  const fits = NAMES.flatMap((name) => {
    const cost = misfit(typed, name);
    return cost === null ? [] : [{ name, cost }];
  });
  return fits.sort((a, b) => a.cost - b.cost)[0]?.name;
}

test("a few letters of a name find it, from the beginnings of its words first", () => {
  expect(best("kp")).toBe("Keep");
  expect(best("ktl")).toBe("Keep the lead, leave the rest");
  expect(best("rétou")).toBe("Label: Retouch");
  expect(best("blur")).toBe("Blur map over the picture");
  expect(best("s12")).toBe("Scene 12, 17:05");
  expect(best("")).toBe("Keep");
  expect(best("xyz")).toBeUndefined();
});

test("what is longer than a name, or out of order, does not fit", () => {
  expect(misfit("peek", "Keep")).toBeNull();
  expect(misfit("keepx", "Keep")).toBeNull();
});
