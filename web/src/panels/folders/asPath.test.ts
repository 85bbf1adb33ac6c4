import { describe, expect, it } from "vitest";
import { asPath } from "./asPath";

/** Addresses: RFC 8089, sections 2 and E. In quotes: as file managers copy paths (common practice, no source). */
const PASTED: [string, string][] = [
  ["/home/ann/Evening", "/home/ann/Evening"],
  ["  /home/ann/Evening\n", "/home/ann/Evening"],
  ["~/Evening", "~/Evening"],
  ['"C:\\Users\\Ann\\Evening"', "C:\\Users\\Ann\\Evening"],
  ["'/home/ann/Evening 2'", "/home/ann/Evening 2"],
  ["file:///home/ann/Evening%202/%C3%96l", "/home/ann/Evening 2/Öl"],
  ["file://localhost/home/ann", "/home/ann"],
  ["file:///c:/Users/Ann", "c:/Users/Ann"],
  ["file://studio/shoots/Evening", "//studio/shoots/Evening"],
  ["file:///home/100%", "file:///home/100%"],
];

describe("what is pasted as a folder", () => {
  it.each(PASTED)("%j", (typed, path) => {
    expect(asPath(typed)).toBe(path);
  });
});
