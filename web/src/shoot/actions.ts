/** What undo and redo would act on. */

import { api, unwrap } from "../api/client";
import { attempt } from "./errors";
import { isBusy } from "./outbox/outbox";
import { useShoot } from "./store";

const { getState: get, setState: set } = useShoot;

/** The last revision that something done in this browser led to. */
let ownRevision = 0;

export function noteOwnRevision(revision: number) {
  ownRevision = revision;
}

export async function loadActions() {
  const { shootId } = get();
  const before = ownRevision;
  const answer = await attempt(() =>
    api.GET("/api/shoots/{shoot_id}/actions", { params: { path: { shoot_id: shootId } } }).then(unwrap),
  );
  // Something was done here meanwhile: its own answer says more.
  const late = get().shootId !== shootId || ownRevision !== before || isBusy(shootId);
  if (answer && !late) set({ undo: answer.undo, redo: answer.redo });
}

/** The shoot changed on the server: if it was not by this window, what undo would act on has changed too. */
export function noteChange(revision: number) {
  if (revision > ownRevision && !isBusy(get().shootId)) void loadActions();
}
