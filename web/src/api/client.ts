import createClient from "openapi-fetch";
import type { components, paths } from "./schema";

const PAUSE_MS = 700;

export const api = createClient<paths>({ baseUrl: "", fetch: send });

/** Sends a request. One that changes something carries a key: if no answer comes, it is sent once more, and the server
 * does nothing twice. */
async function send(request: Request): Promise<Response> {
  if (request.method !== "POST") return fetch(request);
  request.headers.set("Idempotency-Key", newKey());
  const again = request.clone();
  try {
    return await fetch(request);
  } catch {
    await new Promise((resolve) => setTimeout(resolve, PAUSE_MS));
    return fetch(again);
  }
}

function newKey(): string {
  return Array.from(crypto.getRandomValues(new Uint32Array(4)), (part) => part.toString(16)).join("-");
}

type Schemas = components["schemas"];
export type Frame = Schemas["FrameSummary"];
export type FrameDetails = Schemas["FrameDetails"];
export type ShootCard = Schemas["ShootCard"];
export type Progress = Schemas["Progress"];
export type View = Schemas["View"];
export type Marked = Schemas["Marked"];
export type Decision = Schemas["Decision"];
export type RatingRule = Schemas["RatingRule"];
export type Evidence = Schemas["EvidenceView"];
export type Warned = Schemas["Warned"];
export type Regrouping = Schemas["Regrouping"];
export type PlanView = Schemas["PlanView"];
export type PlanWish = Schemas["PlanWish"];
export type ActionRef = Schemas["ActionRef"];
export type Problem = Schemas["Problem"];

/** What went wrong, as the server says it to a person. */
export class ApiError extends Error {
  constructor(
    message: string,
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
    problem?.code,
  );
}

export type PictureKind = "glimpse" | "thumb" | "preview" | "full";

/** The address of a picture; it holds the content version and may be kept for ever. */
export function pictureUrl(frame: { id: number; version: string }, kind: PictureKind): string {
  return `/api/pictures/${frame.id}/${frame.version}/${kind}`;
}

export function hasThumbnail({ stage }: Frame): boolean {
  return stage === "thumbnail" || stage === "preview";
}

/** The best small picture there is: the thumbnail, or a glimpse until it is made. */
export function smallUrl(frame: Frame): string {
  return pictureUrl(frame, hasThumbnail(frame) ? "thumb" : "glimpse");
}
