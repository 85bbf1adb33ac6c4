import { beforeEach, expect, test, vi } from "vitest";
import type { Frame } from "../api/client";

const asked: string[] = [];
const answers = new Map<string, { resolve: (bitmap: ImageBitmap) => void; reject: (error: Error) => void }>();

vi.mock("../api/events", () => ({ onReconnect: () => undefined }));
vi.mock("./decoding", () => ({
  decodeWhole: (url: string) => {
    const kind = url.split("/").at(-1) ?? "";
    asked.push(kind);
    return new Promise((resolve, reject) => answers.set(kind, { resolve, reject }));
  },
}));

const { Pictures } = await import("./cache");

const size = { width: 900, height: 600 };
const bitmap = { width: 300, height: 200, close: () => undefined } as ImageBitmap;

function frame(stage: Frame["stage"]): Frame {
  return { id: 1, version: "a1", stage, problem: null, width: 6000, height: 4000 } as Frame;
}

/** As while somebody steps fast. */
function want(pictures: InstanceType<typeof Pictures>, of: Frame) {
  const first = of.stage === "preview" ? [] : [{ frame: of, quality: "first" as const }];
  pictures.want([...first, { frame: of, quality: "fit", size, withoutFirst: true }]);
}

beforeEach(() => {
  asked.length = 0;
  answers.clear();
});

test("the camera's preview is enough while somebody steps fast", async () => {
  const pictures = new Pictures();
  want(pictures, frame("read"));
  expect(asked).toEqual(["first"]);
  answers.get("first")?.resolve(bitmap);
  await vi.waitFor(() => expect(pictures.best(frame("read"), size, "fit")?.quality).toBe("first"));
  want(pictures, frame("preview"));
  expect(asked, "also when ours is made meanwhile").toEqual(["first"]);
  pictures.want([{ frame: frame("preview"), quality: "fit", size }]);
  expect(asked, "until they rest").toEqual(["first", "medium"]);
});

test("where the camera put none, ours is asked for at once", async () => {
  const pictures = new Pictures();
  want(pictures, frame("read"));
  answers.get("first")?.reject(new Error("204"));
  await vi.waitFor(() => expect(asked).toEqual(["first", "medium"]));
});

test("what is prepared already needs no preview of the camera", () => {
  const pictures = new Pictures();
  want(pictures, frame("preview"));
  expect(asked).toEqual(["medium"]);
});

test("a picture for the stage is made of the smallest that is large enough", () => {
  const pictures = new Pictures();
  pictures.want(
    [300, 900, 1800].map((width) => ({
      frame: frame("preview"),
      quality: "fit",
      size: { width, height: 200 },
    })),
  );
  new Pictures().want([{ frame: frame("read"), quality: "fit", size: { width: 300, height: 200 } }]);
  expect(asked).toEqual(["thumb", "medium", "preview", "medium"]);
});
