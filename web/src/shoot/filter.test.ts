import { expect, test } from "vitest";
import { EVERYTHING, opposite, replaced, switched, toggled } from "./filter";

test("words of a facet stand in one part, and go one by one", () => {
  const one = toggled(EVERYTHING, "decision", "Decision", "keepers");
  const two = toggled(one, "decision", "Decision", "undecided");
  expect(two.show).toBe("keepers or undecided");
  expect(toggled(two, "decision", "Decision", "keepers").show).toBe("undecided");
  expect(toggled(one, "decision", "Decision", "keepers").show).toBe("");
});

test("a figure takes the place of another, and a negated part is left alone", () => {
  const stars = switched(EVERYTHING, "rating", "Stars", "3 stars or more");
  expect(switched(stars, "rating", "Stars", "4 stars or more").show).toBe("4 stars or more");
  expect(switched(stars, "rating", "Stars", "3 stars or more").show).toBe("");
  const [part] = stars.parts;
  const not = replaced(stars, 0, part ? opposite(part) : null);
  expect(not.show).toBe("not 3 stars or more");
  expect(switched(not, "rating", "Stars", "5 stars").show).toBe("not 3 stars or more, 5 stars");
});
