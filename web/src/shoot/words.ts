/** Words on frames: said like marks, and undone like them. */

import { newKey } from "../api/client";
import type { components } from "../api/schema";
import { line } from "./line";
import { rests } from "./marking";
import { putIn } from "./outbox/outbox";
import { type ShootState, useShoot } from "./store";
import { noteStep } from "./trail";
import type { WordsChange } from "./waiting";

type Schemas = components["schemas"];
export type CommonWords = Schemas["CommonWords"];
export type HeldText = Schemas["HeldText"];
export type Template = Schemas["TemplateView"];
export type KeywordOffer = Schemas["KeywordOffer"];

/** Changes the words of frames, as one action. */
export function sayWords(frameIds: number[], words: WordsChange) {
  if (!frameIds.length || rests("words")) return;
  const key = newKey();
  noteStep(key, [], []);
  void putIn(useShoot.getState().shootId, key, { kind: "words", frameIds, words });
}

/** The frames that words are said of: the selection, in the order on screen, or the frame that the person is at. */
export function wordScope({ selection, active }: ShootState): number[] {
  if (!selection.size) return active === null ? [] : [active];
  const { places } = line();
  return [...selection].sort((a, b) => (places.get(a) ?? 0) - (places.get(b) ?? 0));
}

/** What a template says, as a change. */
export function changeOf({ caption, headline, keywords, creators, copyright }: Template): WordsChange {
  return {
    ...(caption && { captions: { "x-default": caption } }),
    ...(headline && { headline }),
    ...(keywords?.length && { add_keywords: keywords }),
    ...(creators?.length && { creators }),
    ...(copyright && { copyright }),
  };
}
