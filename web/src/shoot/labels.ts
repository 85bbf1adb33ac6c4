/** The person's labels: what each is called and looks like, and which of them a frame has. */

import { create } from "zustand";
import { api, unwrap } from "../api/client";
import { onNews, onReconnect } from "../api/events";
import type { components } from "../api/schema";
import { attempt } from "./errors";

export type Label = components["schemas"]["LabelView"];
export type Labels = components["schemas"]["Labels"];
export type LabelSet = Pick<Labels, "labels" | "program">;

interface LabelState extends Labels {
  /** By id, name and text, folded. */
  meant: Map<string, Label>;
}

const NONE: Labels = { labels: [], program: null, version: 0, last: null, colours: {} as Labels["colours"] };

export const useLabels = create<LabelState>(() => ({ ...NONE, meant: new Map() }));

/** Texts that differ in case alone, or in how their accents are composed, mean the same. */
export function fold(text: string): string {
  return text.normalize("NFC").toLowerCase();
}

function meantBy(labels: Label[]): Map<string, Label> {
  const texts = ({ id, name, also = [], texts = {} }: Label) => [id, name, ...also, ...Object.values(texts)];
  return new Map(labels.flatMap((label) => texts(label).map((text) => [fold(text), label] as const)));
}

export function takeLabels(now: Labels) {
  useLabels.setState({ ...now, meant: meantBy(now.labels) });
}

export async function loadLabels() {
  const now = await attempt(() => api.GET("/api/labels").then(unwrap));
  if (now) takeLabels(now);
}

/** The label that a frame's text means; undefined: nobody defined it. */
export function labelOf(text: string): Label | undefined {
  return useLabels.getState().meant.get(fold(text));
}

export function useLabelOf(text: string | null): Label | undefined {
  return useLabels((s) => (text === null ? undefined : s.meant.get(fold(text))));
}

/** The text by which a label is known whatever a frame calls it. */
export function labelId(text: string | null): string | null {
  return text === null ? null : (labelOf(text)?.id ?? text);
}

/** Changes the labels as a whole. said: what was changed, in words. Throws as `unwrap` does. */
export async function defineLabels(set: LabelSet, said: string) {
  const { version } = useLabels.getState();
  takeLabels(await api.PUT("/api/labels", { body: { ...set, version, said } }).then(unwrap));
}

export async function takeBackLabels() {
  const now = await attempt(() => api.POST("/api/labels/undo").then(unwrap));
  if (now) takeLabels(now);
}

/** Fetches the labels, and again whenever they are changed anywhere. */
export function followLabels() {
  void loadLabels();
  onReconnect(() => void loadLabels());
  onNews((news) => {
    if (news.kind === "labels") void loadLabels();
  });
}
