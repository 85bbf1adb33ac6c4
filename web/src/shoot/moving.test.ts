import { afterEach, expect, test, vi } from "vitest";

const told: number[] = [];

vi.mock("../api/client", async (original) => ({
  ...(await original<object>()),
  atOnce: {
    POST: (_: string, { body }: { body: { position: number } }) => {
      told.push(body.position);
      return Promise.resolve({});
    },
  },
}));

vi.stubGlobal("window", new EventTarget());

const { lookAt } = await import("./moving");
const { useShoot } = await import("./store");

afterEach(() => vi.useRealTimers());

test("the server is told where somebody is also while a key is held", () => {
  vi.useFakeTimers();
  const frames = new Map(Array.from({ length: 40 }, (_, id) => [id, { id, position: id }]));
  useShoot.setState({ shootId: 1, frames: frames as never, progress: { state: "measuring" } as never });
  for (let id = 0; id < 30; id++) {
    lookAt(id);
    vi.advanceTimersByTime(33);
  }
  expect(told.length).toBeGreaterThanOrEqual(5);
  vi.advanceTimersByTime(200);
  expect(told.at(-1)).toBe(29);
  expect(told.length).toBeLessThanOrEqual(8);
});
