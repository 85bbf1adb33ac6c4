import { expect, test, vi } from "vitest";

function stubBrowser() {
  vi.stubGlobal("window", new EventTarget());
  vi.stubGlobal("document", { querySelector: () => null, addEventListener: () => undefined });
  vi.stubGlobal("localStorage", { getItem: () => null, setItem: () => undefined });
}

test("every command can be reached from the palette by its name, wherever it applies", async () => {
  stubBrowser();
  const { COMMANDS } = await import("./commands");
  const { fillKeys, commandsOf } = await import("../keys/inForce");
  const { found } = await import("../panels/palette/entries");
  fillKeys(COMMANDS);
  for (const screen of Object.keys(COMMANDS)) {
    // What lasts as long as a key is held has no meaning without one.
    const wanted = commandsOf(screen).filter(({ id, onEnd }) => id !== "palette" && !onEnd);
    expect(wanted.length).toBeGreaterThan(5);
    for (const { id, title } of wanted)
      expect(found(screen, title, [], [])[0]?.title, `${screen}: ${id}`).toBe(title);
  }
});

test("no key means two things on one screen", async () => {
  stubBrowser();
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
