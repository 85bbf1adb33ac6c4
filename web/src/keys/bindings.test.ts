import { expect, test } from "vitest";
import { type Bound, bound, clash, doubled, readBindings, unbound, whyNot, written } from "./bindings";

const COMMANDS: Bound[] = [
  { id: "keep", title: "Keep", screens: ["wall", "bench"], keys: ["a"] },
  { id: "reject", title: "Reject", screens: ["wall", "bench"], keys: ["d", "delete"] },
  { id: "flip", title: "Flip", screens: ["bench"], keys: ["f"] },
  { id: "paint", title: "Paint", screens: ["wall"], keys: ["f"] },
];

test("a key that another command has on the same screen is a clash", () => {
  expect(clash(COMMANDS, "keep", "d")?.id).toBe("reject");
  expect(clash(COMMANDS, "keep", "f")?.id).toBe("flip");
  expect(clash(COMMANDS, "flip", "x")).toBeUndefined();
  expect(clash(COMMANDS, "keep", "a")).toBeUndefined();
});

test("a key that two commands have is told, where they are on one screen", () => {
  expect(doubled(COMMANDS)).toEqual([]);
  const label = { id: "label-x", title: "Label: X", screens: ["bench"], keys: ["f"] };
  expect(doubled([...COMMANDS, label])).toEqual(["f: Flip, and Label: X"]);
});

test("it is swapped, or taken over, and others keep theirs", () => {
  expect(bound({}, COMMANDS, "keep", "d", "a", true)).toEqual({ keep: ["d"], reject: ["a", "delete"] });
  expect(bound({}, COMMANDS, "keep", "d", "a", false)).toEqual({ keep: ["d"], reject: ["delete"] });
  expect(bound({ flip: ["x"] }, COMMANDS, "keep", "k", null, false)).toEqual({
    flip: ["x"],
    keep: ["a", "k"],
  });
  expect(unbound({}, COMMANDS, "reject", "d")).toEqual({ reject: ["delete"] });
});

test("what the browser keeps for itself is refused, with the reason", () => {
  expect(whyNot("ctrl+w")).toContain("closes the tab");
  expect(whyNot("shift")).toContain("together");
  expect(whyNot("shift+w")).toBeNull();
});

test("keys come back from a file; what does not fit is named and left out", () => {
  const own = { keep: ["k"], flip: [] };
  const set = { name: "Mine", by: "position" as const, keys: own };
  expect(readBindings(written(set), COMMANDS)).toEqual({ name: "Mine", by: "position", own, misfits: [] });
  const broken = { gone: ["a"], keep: "a", flip: ["d", "ctrl+w", "y"] };
  const { own: rest, misfits } = readBindings(JSON.stringify({ keys: broken }), COMMANDS);
  expect(rest).toEqual({ flip: ["y"] });
  expect(misfits).toHaveLength(4);
  expect(misfits.join()).toContain("Flip: d: Reject has it");
  for (const text of ["[]", "{}", '{"keys": []}', "null"])
    expect(() => readBindings(text, COMMANDS)).toThrow();
});
