/** What changes a shoot comes after what was put into the outbox before it: a pass that is begun asks about no frame that
 * was decided a moment ago, and no undo that is on the way takes its beginning back. */

import type { Middleware } from "openapi-fetch";
import { useConnection } from "../../api/connection";
import { isBusy, useOutbox } from "./outbox";

export const afterWhatWaits: Middleware = {
  async onRequest({ request, schemaPath, params }) {
    if (request.method === "GET" || !schemaPath.startsWith("/api/shoots/{shoot_id}")) return;
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
