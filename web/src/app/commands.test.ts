import { expect, test, vi } from "vitest";

test("no key means two things on one screen", async () => {
  vi.stubGlobal("window", new EventTarget());
  vi.stubGlobal("document", { querySelector: () => null, addEventListener: () => undefined });
  vi.stubGlobal("localStorage", { getItem: () => null, setItem: () => undefined });
  const { COMMANDS } = await import("./commands");
  for (const [screen, commands] of Object.entries(COMMANDS)) {
    const keys = commands
      .flatMap((command) => (typeof command === "function" ? command() : [command]))
      .flatMap(({ keys }) => keys);
    expect(
      keys.filter((key, at) => keys.indexOf(key) !== at),
      screen,
    ).toEqual([]);
  }
});
