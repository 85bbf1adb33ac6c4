import { afterEach, beforeEach, expect, test, vi } from "vitest";

vi.mock("../../api/library", () => ({ LIBRARY: "here" }));

import { noteFound, noteLost } from "../../api/connection";
import { afterWhatWaits } from "./order";
import { putIn, settle, useOutbox } from "./outbox";

type Asked = Parameters<NonNullable<typeof afterWhatWaits.onRequest>>[0];

/** Whether a request has gone, in the course of time. */
function ask(path: string, method = "POST", shootId = 1): { went: boolean; found: Promise<unknown> } {
  const request = new Request("http://localhost/", { method });
  const params = { path: { shoot_id: shootId } };
  const asked = { went: false, found: Promise.resolve() as Promise<unknown> };
  const wish = { request, schemaPath: `/api/shoots/{shoot_id}${path}`, params } as unknown as Asked;
  asked.found = Promise.resolve(afterWhatWaits.onRequest?.(wish)).then(
    () => {
      asked.went = true;
    },
    (problem) => problem,
  );
  return asked;
}

async function arrive() {
  for (const entry of useOutbox.getState().entries) await settle(entry, null);
}

const settled = () => new Promise((resolve) => setTimeout(resolve));

beforeEach(async () => {
  noteFound();
  await putIn(1, "one", { kind: "mark", frameIds: [1], rating: 1 });
});
afterEach(arrive);

test("what changes a shoot goes when all that was done before has arrived", async () => {
  const pass = ask("/passes");
  const taken = ask("/history/take-back");
  const plan = ask("/plans");
  await settled();
  expect([pass.went, taken.went, plan.went]).toEqual([false, false, false]);
  await arrive();
  await settled();
  expect([pass.went, taken.went, plan.went]).toEqual([true, true, true]);
});

test("questions and other shoots do not wait", async () => {
  const asked = [ask("/passes", "GET"), ask("/passes", "POST", 2)];
  await settled();
  expect(asked.map(({ went }) => went)).toEqual(asked.map(() => true));
});

test("while the server is lost nothing waits to overtake the marks when it is found", async () => {
  const before = ask("/passes");
  noteLost();
  const after = ask("/passes");
  expect(await before.found).toBeInstanceOf(TypeError);
  expect(await after.found).toBeInstanceOf(TypeError);
});
