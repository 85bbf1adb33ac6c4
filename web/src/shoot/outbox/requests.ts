/** The requests that acts become. */

import { api, type Marked, underKey, unwrap } from "../../api/client";
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
  /** As it is after this request, if more of it is to be sent. */
  rest?: Entry;
}

/** Sends an act, or the next part of it. Null: there is nothing to undo or redo. Throws as `fetch` and `unwrap` do. */
export async function sendNext(entry: Entry): Promise<Sent | null> {
  const { act } = entry;
  if (act.kind === "mark") return sendPart(entry, act);
  if (act.kind === "regroup") return { answer: await regroup(entry, act) };
  if (act.kind === "point") return { answer: await putPoint(entry, act) };
  if (act.kind === "keep-lead") return { answer: await keepLead(entry, act) };
  const answer = await step(entry, act);
  return answer && { answer };
}

async function sendPart(entry: Entry, act: Of<"mark">): Promise<Sent> {
  const { kind: _, frameIds, ...values } = act;
  const { frames: done, batch } = entry.sent ?? { frames: 0, batch: null };
  const part = frameIds.slice(done, done + PART);
  const body = { frame_ids: part, ...values, of: frameIds.length, continues: batch };
  const answer = await api
    .POST("/api/shoots/{shoot_id}/marks", { ...how(entry, `${entry.key}-${done}`, body), body })
    .then(unwrap);
  const frames = done + part.length;
  if (frames >= frameIds.length) return { answer };
  return { answer, rest: { ...entry, sent: { frames, batch: answer.batch ?? batch } } };
}

function regroup(entry: Entry, act: Of<"regroup">): Promise<Marked> {
  const body = { frame_id: act.frameId, action: act.action };
  return api.POST("/api/shoots/{shoot_id}/groups", { ...how(entry, entry.key, body), body }).then(unwrap);
}

function putPoint(entry: Entry, act: Of<"point">): Promise<Marked> {
  const body = { frame_id: act.frameId, x: act.x, y: act.y };
  return api.POST("/api/shoots/{shoot_id}/point", { ...how(entry, entry.key, body), body }).then(unwrap);
}

function keepLead(entry: Entry, act: Of<"keep-lead">): Promise<Marked> {
  const body = { frame_id: act.frameId, reject_rest: act.rejectRest, among: act.among };
  return api.POST("/api/shoots/{shoot_id}/keep-lead", { ...how(entry, entry.key, body), body }).then(unwrap);
}

async function step(entry: Entry, act: Of<"undo" | "redo">): Promise<Marked | null> {
  const batch = act.batch ?? (await lastAction(entry.shootId, act.kind));
  if (!batch) return null;
  const wish = { ...how(entry, entry.key, { batch }), body: { batch } };
  return act.kind === "undo"
    ? api.POST("/api/shoots/{shoot_id}/undo", wish).then(unwrap)
    : api.POST("/api/shoots/{shoot_id}/redo", wish).then(unwrap);
}

async function lastAction(shootId: number, way: "undo" | "redo"): Promise<number | undefined> {
  const wish = { params: { path: { shoot_id: shootId } } };
  return (await api.GET("/api/shoots/{shoot_id}/actions", wish).then(unwrap))[way]?.batch;
}

function how({ shootId }: Entry, key: string, body: object) {
  return {
    params: { path: { shoot_id: shootId } },
    headers: underKey(key),
    keepalive: JSON.stringify(body).length < KEEPALIVE_BYTES,
    signal: AbortSignal.timeout(PATIENCE_MS),
  };
}
