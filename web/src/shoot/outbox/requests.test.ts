import { beforeEach, expect, test, vi } from "vitest";
import { api, atOnce } from "../../api/client";
import type { Act, Entry } from "./entry";
import { named, sendNext } from "./requests";

interface Asked {
  headers: Record<string, string>;
  keepalive: boolean;
  body: { frame_ids: number[]; of: number; continues: number | null };
}

let asked: Asked[] = [];

beforeEach(() => {
  asked = [];
  // The server: the first part makes batch 77, later ones join it; the second changes nothing.
  vi.spyOn(atOnce, "POST").mockImplementation((async (_: string, wish: Asked) => {
    asked.push(wish);
    const batch = asked.length === 2 ? null : 77;
    return { response: { ok: true }, data: { frames: [], title: "", batch, revision: 1, actions: {} } };
  }) as never);
});

function onFrames(count: number): Entry {
  const frameIds = Array.from({ length: count }, (_, n) => n + 1);
  const act = { kind: "mark" as const, frameIds, decision: "reject" as const };
  return { id: 1, key: "a-key", library: "here", shootId: 5, at: 0, act, shows: [] };
}

test("a mark on many frames goes in parts, each under a key of its own, as one action", async () => {
  let entry: Entry | undefined = onFrames(5200);
  while (entry) entry = (await sendNext(entry))?.rest;
  expect(asked.map(({ body }) => body.frame_ids.length)).toEqual([2000, 2000, 1200]);
  expect(asked.flatMap(({ body }) => body.frame_ids)).toEqual(Array.from({ length: 5200 }, (_, n) => n + 1));
  expect(asked.map(({ body }) => [body.of, body.continues])).toEqual([
    [5200, null],
    [5200, 77],
    [5200, 77],
  ]);
  expect(new Set(asked.map(({ headers }) => headers["Idempotency-Key"])).size).toBe(3);
});

test.each<Act>(
  Object.values({
    mark: { kind: "mark", frameIds: [1], rating: 3 },
    regroup: { kind: "regroup", frameId: 1, action: "split" },
    words: { kind: "words", frameIds: [1], words: {} },
    point: { kind: "point", frameId: 1, x: 0.5, y: 0.5 },
    "keep-lead": { kind: "keep-lead", frameId: 1, rejectRest: false, among: [1] },
    undo: { kind: "undo", batch: 7 },
    redo: { kind: "redo", batch: 7 },
  } satisfies { [Kind in Act["kind"]]: Extract<Act, { kind: Kind }> }),
)("what waits in the outbox does not wait for itself: $kind", async (act) => {
  const waiting = vi.spyOn(api, "POST");
  await sendNext({ ...onFrames(1), act });
  expect(asked).toHaveLength(1);
  expect(waiting).not.toHaveBeenCalled();
});

test("a part that is sent again has the key that it had", async () => {
  const first = await sendNext(onFrames(3000));
  const rest = first?.rest as Entry;
  await sendNext(rest);
  await sendNext(rest);
  expect(asked[1]?.headers).toEqual(asked[2]?.headers);
  expect(asked[1]?.body).toEqual(asked[2]?.body);
});

test("only what is short is sent on when the page is closed: of more, the browser would refuse to send it at all", async () => {
  await sendNext(onFrames(3));
  const { act } = onFrames(1);
  const frameIds = Array.from({ length: 2000 }, (_, n) => 1e16 + 2 * n);
  await sendNext({ ...onFrames(1), act: { ...act, frameIds } as Entry["act"] });
  expect(asked.map(({ keepalive }) => keepalive)).toEqual([true, false]);
});

test("an undo of the last action names it once: sent again, it does not mean the one before", async () => {
  let last = 12;
  const asking = vi.spyOn(atOnce, "GET").mockImplementation((async () => ({
    response: { ok: true },
    data: { undo: { batch: last-- }, redo: null },
  })) as never);
  const undo: Entry = { ...onFrames(1), act: { kind: "undo", batch: null } };
  const meant = await named(undo);
  expect(meant.act).toEqual({ kind: "undo", batch: 12 });
  expect(await named(meant)).toBe(meant);
  await sendNext(meant);
  await sendNext(await named(meant));
  expect(asked.map(({ body }) => body)).toEqual([{ batch: 12 }, { batch: 12 }]);
  expect(asking).toHaveBeenCalledTimes(1);
});
