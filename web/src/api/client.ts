import createClient from "openapi-fetch";
import type { components, paths } from "./schema";

export const api = createClient<paths>({ baseUrl: "" });

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

/** What went wrong, as the server says it to a person. */
export class ApiError extends Error {}

interface Answer<T> {
  data?: T;
  error?: unknown;
  response: Response;
}

/** The data of an answer, or an ApiError with the server's message. */
export function unwrap<T>({ data, error, response }: Answer<T>): T {
  if (response.ok) return data as T;
  const detail = (error as { detail?: unknown } | undefined)?.detail;
  throw new ApiError(
    typeof detail === "string"
      ? detail
      : `Winnow could not answer (${response.status}): load the page again.`,
  );
}

export type PictureKind = "glimpse" | "thumb" | "preview" | "full";

/** The address of a picture; it holds the content version and may be kept for ever. */
export function pictureUrl(frame: { id: number; version: string }, kind: PictureKind): string {
  return `/api/pictures/${frame.id}/${frame.version}/${kind}`;
}

export const THUMBNAIL_STAGE = 2;

/** The best small picture there is: the thumbnail, or a glimpse until it is made. */
export function smallUrl(frame: Frame): string {
  return pictureUrl(frame, frame.stage >= THUMBNAIL_STAGE ? "thumb" : "glimpse");
}
