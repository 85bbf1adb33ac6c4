/** The requests that acts become. */

import { atOnce, type Marked, underKey, unwrap } from "../../api/client";
import { type Filter, queryOf } from "../filter";
import { filterInForce } from "../filterInForce";
import { useShoot } from "../store";
import type { Act, Entry } from "./entry";

/** A mark on more frames than this goes in parts, which the server joins to one action. */
const PART = 2000;
/** A part that is not answered for so long is asked for again. */
const PATIENCE_MS = 8_000;
/** Up to this length the browser sends a request on when its page is closed. */
const KEEPALIVE_BYTES = 32_000;

type Of<Kind extends Act["kind"]> = Extract<Act, { kind: Kind }>;

export interface Sent {
  answer: Marked;
  /** The filter that the answer speaks of; null: that of another shoot. */
  seenBy?: Filter | null;
  /** As it is after this request, if more of it is to be sent. */
  rest?: Entry;
}

/** Sends an act, or the next part of it. Null: there is nothing to undo or redo. Throws as `fetch` and `unwrap` do. */
export async function sendNext(entry: Entry): Promise<Sent | null> {
  const seenBy = filterOf(entry);
  const query = seenBy ? queryOf(seenBy) : {};
  const { act } = entry;
  if (act.kind === "mark") return { ...(await sendPart(entry, act, query)), seenBy };
  const answer = await sendWhole(entry, act, query);
  return answer && { answer, seenBy };
}

type Query = ReturnType<typeof queryOf> | Record<string, never>;

/** The filter through which the shoot of an act is looked at now: the answer says what leaves that view. */
function filterOf({ shootId }: Entry): Filter | null {
  const shoot = useShoot.getState();
  return shoot.shootId === shootId ? filterInForce(shoot) : null;
}

async function sendPart(entry: Entry, act: Of<"mark">, query: Query): Promise<Omit<Sent, "seenBy">> {
  const { kind: _, frameIds, ...values } = act;
  const { frames: done, batch } = entry.sent ?? { frames: 0, batch: null };
  const part = frameIds.slice(done, done + PART);
  const body = { frame_ids: part, ...values, of: frameIds.length, continues: batch };
  const answer = await atOnce
    .POST("/api/shoots/{shoot_id}/marks", { ...how(entry, `${entry.key}-${done}`, query, body), body })
    .then(unwrap);
  const frames = done + part.length;
  if (frames >= frameIds.length) return { answer };
  return { answer, rest: { ...entry, sent: { frames, batch: answer.batch ?? batch } } };
}

function sendWhole(entry: Entry, act: Exclude<Act, { kind: "mark" }>, query: Query): Promise<Marked | null> {
  if (act.kind === "regroup") {
    const body = { frame_id: act.frameId, action: act.action };
    return atOnce
      .POST("/api/shoots/{shoot_id}/groups", { ...how(entry, entry.key, query, body), body })
      .then(unwrap);
  }
  if (act.kind === "words") {
    const body = {
      frame_ids: act.frameIds,
      captions: {},
      add_keywords: [],
      remove_keywords: [],
      ...act.words,
    };
    return atOnce
      .POST("/api/shoots/{shoot_id}/words", { ...how(entry, entry.key, query, body), body })
      .then(unwrap);
  }
  if (act.kind === "point") {
    const body = { frame_id: act.frameId, x: act.x, y: act.y };
    return atOnce
      .POST("/api/shoots/{shoot_id}/point", { ...how(entry, entry.key, query, body), body })
      .then(unwrap);
  }
  if (act.kind === "keep-lead") {
    const body = { frame_id: act.frameId, reject_rest: act.rejectRest, among: act.among };
    return atOnce
      .POST("/api/shoots/{shoot_id}/keep-lead", { ...how(entry, entry.key, query, body), body })
      .then(unwrap);
  }
  return step(entry, act, query);
}

/** What is to be done to "the last action" with the name of that action. Known before it is sent: if no answer comes
 * and it is sent again, another one may be the last. */
export async function named(entry: Entry): Promise<Entry> {
  const { act, shootId } = entry;
  if ((act.kind !== "undo" && act.kind !== "redo") || act.batch !== null) return entry;
  const batch = await lastAction(shootId, act.kind);
  return batch ? { ...entry, act: { ...act, batch } } : entry;
}

async function step(entry: Entry, act: Of<"undo" | "redo">, query: Query): Promise<Marked | null> {
  const { batch } = act;
  if (!batch) return null;
  const wish = { ...how(entry, entry.key, query, { batch }), body: { batch } };
  return act.kind === "undo"
    ? atOnce.POST("/api/shoots/{shoot_id}/undo", wish).then(unwrap)
    : atOnce.POST("/api/shoots/{shoot_id}/redo", wish).then(unwrap);
}

async function lastAction(shootId: number, way: "undo" | "redo"): Promise<number | undefined> {
  const wish = { params: { path: { shoot_id: shootId } } };
  return (await atOnce.GET("/api/shoots/{shoot_id}/actions", wish).then(unwrap))[way]?.batch;
}

function how({ shootId, by, walk }: Entry, key: string, query: Query, body: object) {
  return {
    params: { path: { shoot_id: shootId }, query },
    headers: {
      ...underKey(key),
      ...(by && { "Winnow-Actor": encodeURIComponent(by) }),
      ...(walk && { "Winnow-Walk": String(walk) }),
    },
    keepalive: JSON.stringify(body).length < KEEPALIVE_BYTES,
    signal: AbortSignal.timeout(PATIENCE_MS),
  };
}
