import createClient from "openapi-fetch";
import { noteLost } from "./connection";
import type { components, paths } from "./schema";

const PAUSE_MS = 700;
/** A question that is not answered for so long is given up; what changes something may take its time. */
const READING_MS = 20_000;
const KEY = "Idempotency-Key";

/** The server. What changes a shoot waits here until all that was marked before has arrived (`shoot/outbox/order`). */
export const api = createClient<paths>({ baseUrl: "", fetch: send });
/** The server, for what waits for no mark: the marks themselves, where one is, a question with a body. */
export const atOnce = createClient<paths>({ baseUrl: "", fetch: send });

/** Sends a request. One that changes something carries a key: if no answer comes, it is sent once more, and the server
 * does nothing twice. Who brings a key of their own sends again by themselves. */
async function send(request: Request): Promise<Response> {
  try {
    if (request.method !== "POST") {
      return await fetch(request, {
        signal: AbortSignal.any([request.signal, AbortSignal.timeout(READING_MS)]),
      });
    }
    return request.headers.has(KEY) ? await fetch(request) : await sendTwice(request);
  } catch (error) {
    if (isNobodyThere(error)) noteLost();
    throw error;
  }
}

async function sendTwice(request: Request): Promise<Response> {
  request.headers.set(KEY, newKey());
  const again = request.clone();
  try {
    return await fetch(request);
  } catch {
    await new Promise((resolve) => setTimeout(resolve, PAUSE_MS));
    return fetch(again);
  }
}

/** Headers of a request that may be sent any number of times and is done once. */
export function underKey(key: string): Record<string, string> {
  return { [KEY]: key };
}

export function newKey(): string {
  return Array.from(crypto.getRandomValues(new Uint32Array(4)), (part) => part.toString(16)).join("-");
}

/** Whether a request failed because nobody answered (not because somebody refused). */
export function isNobodyThere(error: unknown): boolean {
  return error instanceof TypeError;
}

type Schemas = components["schemas"];
export type Frame = Schemas["FrameSummary"];
export type FrameMarks = Schemas["FrameMarks"];
export type FrameDetails = Schemas["FrameDetails"];
export type ShootCard = Schemas["ShootCard"];
export type Progress = Schemas["Progress"];
export type Companion = Schemas["CompanionView"];
export type View = Schemas["View"];
export type ViewChange = Schemas["ViewChange"];
export type Marked = Schemas["Marked"];
export type Decision = Schemas["Decision"];
export type Evidence = Schemas["EvidenceView"];
export type Warned = Schemas["Warned"];
export type Regrouping = Schemas["Regrouping"];
export type SubjectKind = Schemas["SubjectKind"];
export type PlanView = Schemas["PlanView"];
export type PlanWish = Schemas["PlanWish"];
export type ActionRef = Schemas["ActionRef"];
export type Problem = Schemas["Problem"];

/** What went wrong, as the server says it to a person. */
export class ApiError extends Error {
  constructor(
    message: string,
    readonly status: number,
    readonly code?: Problem["code"],
  ) {
    super(message);
  }
}

interface Answer<T> {
  data?: T;
  error?: unknown;
  response: Response;
}

/** The data of an answer, or an ApiError with the server's message. */
export function unwrap<T>({ data, error, response }: Answer<T>): T {
  if (response.ok) return data as T;
  const problem = error as Partial<Problem> | undefined;
  throw new ApiError(
    problem?.detail ?? `Winnow could not answer (${response.status}): load the page again.`,
    response.status,
    problem?.code,
  );
}

export type PictureKind = "glimpse" | "tiny" | "first" | "thumb" | "medium" | "preview" | "full" | "plain";

/** The address of a picture; it holds the content version and may be kept for ever. */
export function pictureUrl(frame: { id: number; version: string }, kind: PictureKind): string {
  return `/api/pictures/${frame.id}/${frame.version}/${kind}`;
}

/** Long edge of a thumbnail, px. */
export const THUMBNAIL_EDGE = 512;

export function hasThumbnail({ stage }: Frame): boolean {
  return stage === "thumbnail" || stage === "preview";
}

/** A picture for where hundreds are shown, or a glimpse until it can be made. */
export function tinyUrl(frame: Frame): string {
  return pictureUrl(frame, hasThumbnail(frame) ? "tiny" : "glimpse");
}

/** The best small picture there is: the thumbnail, or a glimpse until it is made. */
export function smallUrl(frame: Frame): string {
  return pictureUrl(frame, hasThumbnail(frame) ? "thumb" : "glimpse");
}
