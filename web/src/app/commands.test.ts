import { expect, test, vi } from "vitest";

function stubBrowser() {
  const localStorage = { getItem: () => null, setItem: () => undefined };
  vi.stubGlobal("window", Object.assign(new EventTarget(), { localStorage }));
  vi.stubGlobal("document", { querySelector: () => null, addEventListener: () => undefined });
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
      expect(found(screen, title, { filters: [], passes: [] }, [])[0]?.title, `${screen}: ${id}`).toBe(title);
  }
});

test("no key means two things on one screen, whichever of our sets is in force", async () => {
  stubBrowser();
  const { COMMANDS } = await import("./commands");
  const { fillKeys, commandsOf } = await import("../keys/inForce");
  const { chooseSet, DEFAULT, OURS } = await import("../keys/sets");
  const { useLabels } = await import("../shoot/labels");
  fillKeys(COMMANDS);
  const label = { meaning: "", colour: "sky", shape: "disc", texts: {}, also: [] } as const;
  const labels = ["q", "w", "e"].map((key) => ({ ...label, id: key, name: key, key, texts: {}, also: [] }));
  useLabels.setState({ labels });
  const ids = Object.keys(COMMANDS).flatMap((screen) => commandsOf(screen).map(({ id }) => id));
  const problems: string[] = [];
  for (const { id: set, keys } of OURS) {
    chooseSet(set);
    for (const id of Object.keys(keys))
      if (!ids.includes(id) && !/^label-\d$/.test(id)) problems.push(`${set}: there is no ${id}`);
    for (const screen of Object.keys(COMMANDS)) {
      const all = commandsOf(screen).flatMap(({ id, keys }) => keys.map((key) => `${key}: ${id}`));
      const twice = all.filter((one) =>
        all.some((other) => other !== one && other.split(": ")[0] === one.split(": ")[0]),
      );
      problems.push(...twice.map((one) => `${set}, ${screen}: ${one}`));
    }
  }
  chooseSet(DEFAULT.id);
  expect(problems).toEqual([]);
});
