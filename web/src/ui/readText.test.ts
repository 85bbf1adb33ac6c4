import { describe, expect, it } from "vitest";
import { readText } from "./readText";

/** What a spreadsheet saves under each of its kinds of text; bytes by the WHATWG Encoding Standard and Unicode 15, 3.10. */
const SAVED: Record<string, number[]> = {
  "UTF-8": [0x4b, 0xc3, 0xb6, 0x6c, 0x6e],
  "UTF-8 that says so": [0xef, 0xbb, 0xbf, 0x4b, 0xc3, 0xb6, 0x6c, 0x6e],
  "Windows-1252": [0x4b, 0xf6, 0x6c, 0x6e],
  "UTF-16, little end first": [0xff, 0xfe, 0x4b, 0, 0xf6, 0, 0x6c, 0, 0x6e, 0],
  "UTF-16, big end first": [0xfe, 0xff, 0, 0x4b, 0, 0xf6, 0, 0x6c, 0, 0x6e],
};

describe("a text file", () => {
  it.each(Object.entries(SAVED))("is read in %s", async (_, bytes) => {
    expect(await readText(new Blob([new Uint8Array(bytes)]))).toBe("Köln");
  });
});
