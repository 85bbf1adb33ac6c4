/** The frames of the shoot: as the server told them, and over that the marks that still wait for it. */

import { ApiError, api, type Frame, type FrameMarks, type Marked, unwrap } from "../api/client";
import { tell } from "./errors";
import { isBusy } from "./outbox/outbox";
import { placeOf } from "./places";
import { useShoot } from "./store";
import { setWaiting, shown, told } from "./told";
import { refreshView } from "./view";
import { recounted, type Waiting } from "./waiting";

const { getState: get, setState: set } = useShoot;

/** Shows the marks that wait; the counts follow at once. */
export function showWaiting(now: Waiting) {
  const frames = new Map(get().frames);
  const changes: [Frame, Frame][] = [];
  for (const id of setWaiting(now)) {
    const [before, after] = [frames.get(id), shown(id)];
    if (!before || !after || sameMarks(before, after)) continue;
    frames.set(id, after);
    changes.push([before, after]);
  }
  if (!changes.length) return;
  const { view } = get();
  set({ frames, view: view && { ...view, tally: recounted(view.tally, changes) } });
}

/** Marks as the server has journalled them. Mostly they are what is shown: then nothing is drawn anew. Returns whether
 * a picture was turned: its shape and addresses are to be asked for. */
export function learnMarks(marks: FrameMarks[]): boolean {
  const changed = new Map<number, Frame>();
  let isTurned = false;
  for (const { id, decision, rating, label, turn, proposed } of marks) {
    const frame = told.get(id);
    if (!frame) continue;
    isTurned ||= turn !== frame.turn;
    told.set(id, { ...frame, decision, rating, label, proposed });
    const [before, after] = [get().frames.get(id), shown(id)];
    if (after && !(before && sameMarks(before, after))) changed.set(id, after);
  }
  if (changed.size) set({ frames: new Map([...get().frames, ...changed]) });
  return isTurned;
}

function sameMarks(one: Frame, other: Frame): boolean {
  return (
    one.decision === other.decision &&
    one.rating === other.rating &&
    one.label === other.label &&
    one.proposed === other.proposed
  );
}

/** The newest revision that there was news of since something was fetched last: what is fetched knows of all before. */
let newest = 0;

/** News: the shoot changed. What is asked from here is known from the answers; only other changes are fetched. */
export function noteNews(revision: number) {
  newest = Math.max(newest, revision);
  keepUp();
}

/** Fetches what changed elsewhere, once nothing from here is under way. */
export function keepUp() {
  const { shootId, revision } = get();
  if (newest > revision && !isBusy(shootId)) void refresh();
}

/** A change that was made from here led to a revision. Returns whether nothing else came between: then all of it is
 * known, and news of it are no news. */
export function noteOwnChange({ revision, batch }: Marked): boolean {
  if (batch === null) return revision === get().revision;
  if (revision !== get().revision + 1) return false;
  set({ revision });
  return true;
}

/** So many frames fill a screen several times over. */
const FIRST = 800;

let refreshing = false;
let again = false;

/** Fetches what changed since the last answer. Calls that come meanwhile lead to one more fetch. */
export async function refresh() {
  again = true;
  if (refreshing) return;
  refreshing = true;
  try {
    while (again) {
      again = false;
      newest = 0;
      const { shootId, revision } = get();
      const answer = await fetchChanged(shootId, revision, showFirst).catch(refused);
      if (!answer || get().shootId !== shootId) continue;
      learnFrames(answer.frames);
      set({ revision: answer.revision });
      if (newest > answer.revision) again = true;
      await refreshView();
      if (get().shootId === shootId && get().view) set({ loaded: true, arriving: false, failure: null });
    }
  } finally {
    refreshing = false;
  }
}

/** Of a shoot of many thousands, the frames about where the person is are shown before all others are here. Not in a
 * pass: it goes on at a frame of its own. */
async function showFirst(shootId: number) {
  if (get().loaded || get().shootId !== shootId || new URLSearchParams(location.search).has("pass")) return;
  const near = (placeOf(shootId) ?? 0) - FIRST / 4;
  const { frames } = await fetchPage(shootId, 0, Math.max(0, near), FIRST);
  if (get().shootId !== shootId) return;
  learnFrames(frames);
  await refreshView();
  if (get().shootId === shootId && get().visible.length) set({ loaded: true, arriving: true });
}

/** A shoot that is not open yet has a screen of its own for what is wrong. */
function refused(problem: unknown) {
  if (!get().loaded && problem instanceof ApiError) set({ failure: problem });
  else tell(problem);
}

function learnFrames(changed: Frame[]) {
  const frames = new Map(get().frames);
  let geometry = get().geometry;
  for (const frame of changed) {
    if (!sameGeometry(frames.get(frame.id), frame)) geometry = get().geometry + 1;
    told.set(frame.id, frame);
    frames.set(frame.id, shown(frame.id) ?? frame);
  }
  set({ frames, geometry });
}

/** The frames that changed after a revision, page by page. Those that change on the way carry a later revision than
 * the first page, and come with the next question. */
async function fetchChanged(shootId: number, since: number, meanwhile: (shootId: number) => Promise<void>) {
  const frames: Frame[] = [];
  let revision: number | undefined;
  for (let after = 0, more = true; more; after = frames.at(-1)?.id ?? 0) {
    const page = await fetchPage(shootId, since, after);
    frames.push(...page.frames);
    if (page.more && revision === undefined) await meanwhile(shootId);
    revision ??= page.revision;
    more = page.more;
  }
  return { frames, revision: revision ?? since };
}

function fetchPage(shootId: number, since: number, after: number, limit?: number) {
  const query = { since, after, ...(limit && { limit }) };
  const params = { path: { shoot_id: shootId }, query };
  return api.GET("/api/shoots/{shoot_id}/frames", { params }).then(unwrap);
}

function sameGeometry(before: Frame | undefined, after: Frame): boolean {
  return (
    before?.width === after.width &&
    before.height === after.height &&
    before.position === after.position &&
    before.scene === after.scene &&
    before.group === after.group
  );
}
