import { afterEach, beforeEach, expect, test, vi } from "vitest";

vi.mock("../../api/library", () => ({ LIBRARY: "here" }));
vi.mock("./requests", () => ({ named: async (entry: Entry) => entry, sendNext: vi.fn() }));

import { ApiError, api, type Marked } from "../../api/client";
import { noteFound, useConnection } from "../../api/connection";
import type { Act, Entry } from "./entry";
import { onOutcome, putIn, settle, useOutbox } from "./outbox";
import { sendNext } from "./requests";
import { startSending } from "./sending";

// There is no database here: the outbox keeps everything in the page, as it does in a private window.
const realTimeout = setTimeout;
const send = vi.mocked(sendNext);
const mark = (rating: number): Act => ({ kind: "mark", frameIds: [1], rating });

function answered(batch: number): { answer: Marked } {
  const actions = { undo: { batch, title: "marked", walk: null }, redo: null };
  const view = {} as Marked["view"];
  return { answer: { frames: [], title: "marked", batch, revision: batch, actions, view } };
}

function sentKeys(): string[] {
  return send.mock.calls.map(([entry]) => entry.key);
}

async function untilEmpty() {
  await vi.waitFor(() => expect(useOutbox.getState().entries).toEqual([]));
}

let stop: () => void;
let told: string[] = [];
let started = false;

beforeEach(async () => {
  // Pauses between tries are a hundredth of what they are.
  vi.stubGlobal("setTimeout", (then: () => void, ms: number) => realTimeout(then, ms / 100));
  send.mockReset();
  told = [];
  stop = onOutcome(({ entry, problem }) => told.push(`${entry.key}${problem ? `: ${problem}` : ""}`));
  noteFound();
  if (!started) await startSending();
  started = true;
});

afterEach(async () => {
  stop();
  for (const entry of useOutbox.getState().entries) await settle(entry, null);
  vi.unstubAllGlobals();
});

test("where the browser keeps nothing, marks are sent all the same, in order", async () => {
  send.mockImplementation(async () => answered(5));
  await Promise.all(["one", "two", "three"].map((key, n) => putIn(1, key, mark(n))));
  await untilEmpty();
  expect(sentKeys()).toEqual(["one", "two", "three"]);
  expect(useOutbox.getState().lasting).toBe(false);
});

test("what finds nobody waits until the server is found, and goes first then", async () => {
  send.mockRejectedValueOnce(new TypeError("Failed to fetch")).mockImplementation(async () => answered(5));
  await putIn(1, "one", mark(1));
  await putIn(1, "two", mark(2));
  await vi.waitFor(() => expect(useConnection.getState().lost).toBe(true));
  expect(sentKeys()).toEqual(["one"]);
  noteFound();
  await untilEmpty();
  expect(sentKeys()).toEqual(["one", "one", "two"]);
  expect(told).toEqual(["one", "two"]);
});

test("a server that fails at one mark is asked again and again, then the rest goes on", async () => {
  send.mockImplementation(async (entry: Entry) => {
    if (entry.key === "one") throw new ApiError("it cannot be done now", 503);
    return answered(5);
  });
  await putIn(1, "one", mark(1));
  await putIn(1, "two", mark(2));
  await vi.waitFor(() => expect(sentKeys().at(-1)).toBe("two"), 5000);
  await vi.waitFor(() => expect(useOutbox.getState().entries).toHaveLength(1));
  expect(sentKeys().filter((key) => key === "one")).toHaveLength(6);
  expect(useOutbox.getState().entries[0]?.refused).toBe("it cannot be done now");
  expect(told).toEqual(["one: it cannot be done now", "two"]);
});

test("one that is never answered is put aside only if the server answers others", async () => {
  const life = vi.spyOn(api, "GET");
  life.mockResolvedValueOnce({ response: { ok: false } } as never);
  life.mockResolvedValue({ response: { ok: true } } as never);
  send.mockRejectedValue(new DOMException("too late", "TimeoutError"));
  await putIn(1, "one", mark(1));
  await vi.waitFor(() => expect(useConnection.getState().lost).toBe(true));
  noteFound();
  await vi.waitFor(() => expect(useOutbox.getState().entries[0]?.refused).toBeTruthy(), 5000);
  expect(sentKeys()).toHaveLength(4);
});

test("an undo of what was refused takes nothing back", async () => {
  send.mockRejectedValueOnce(new ApiError("no such frame", 404)).mockResolvedValue(null);
  await Promise.all([putIn(1, "one", mark(1)), putIn(1, "back", { kind: "undo", batch: null })]);
  await vi.waitFor(() => expect(sentKeys()).toEqual(["one", "back"]));
  expect(send.mock.calls[1]?.[0].act).toEqual({ kind: "undo", batch: 0 });
});

test("an undo right after a mark takes back just that", async () => {
  send.mockImplementation(async () => answered(41));
  await Promise.all([putIn(1, "one", mark(1)), putIn(1, "back", { kind: "undo", batch: null })]);
  await untilEmpty();
  expect(send.mock.calls[1]?.[0].act).toEqual({ kind: "undo", batch: 41 });
});
