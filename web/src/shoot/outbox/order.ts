/** What changes a shoot comes after what was put into the outbox before it: a pass that is begun asks about no frame that
 * was decided a moment ago, and no undo that is on the way takes its beginning back. */

import type { Middleware } from "openapi-fetch";
import { useConnection } from "../../api/connection";
import { isBusy, useOutbox } from "./outbox";

const OF_SHOOT = "/api/shoots/{shoot_id}";
const GOES_AT_ONCE: ReadonlySet<string> = new Set([
  // The acts of the outbox themselves.
  ...["/marks", "/groups", "/words", "/point", "/keep-lead", "/undo", "/redo"],
  // Where one is.
  ...["/look", "/here", "/passes/{walk_id}"],
  // A question, asked again when marks arrive.
  "/words/common",
]);

export const afterWhatWaits: Middleware = {
  async onRequest({ request, schemaPath, params }) {
    if (request.method === "GET" || !schemaPath.startsWith(OF_SHOOT)) return;
    if (GOES_AT_ONCE.has(schemaPath.slice(OF_SHOOT.length))) return;
    await arrived(Number(params.path?.shoot_id));
  },
};

/** Resolves when nothing of a shoot waits any more. Rejects, as a request that finds nobody does, when the server is
 * lost: what waits has to go first when it is found. */
function arrived(shootId: number): Promise<void> {
  return new Promise((resolve, reject) => {
    const look = () => {
      const isLost = useConnection.getState().lost;
      if (isBusy(shootId) && !isLost) return;
      for (const stop of stops) stop();
      if (isBusy(shootId)) reject(new TypeError("What was marked before waits for the server."));
      else resolve();
    };
    const stops = [useOutbox.subscribe(look), useConnection.subscribe(look)];
    look();
  });
}
