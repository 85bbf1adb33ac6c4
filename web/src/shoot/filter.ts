/** What part of the shoot is asked for: a sentence, and its parts. What they mean is the server's to say; here parts are
 * put together and taken out. */

import type { components } from "../api/schema";

export type FilterPart = components["schemas"]["FilterPart"];

export interface Filter {
  /** The sentence; empty: everything. */
  show: string;
  parts: FilterPart[];
}

export const EVERYTHING: Filter = { show: "", parts: [] };

export function showsAll(filter: Filter): boolean {
  return filter.show === "";
}

/** Facets that rest on what was measured. */
const MEASURED = new Set(["warning", "faces", "eyes", "similar", "lead", "size", "sigma", "light", "copies"]);

/** Whether the filter asks for anything that was measured or compared. */
export function looksFor({ parts }: Filter): boolean {
  return parts.some((part) => MEASURED.has(part.facet));
}

/** The filter as the parameters of a question. */
export function queryOf({ show }: Filter) {
  return { show: show || undefined };
}

/** What an address asks for. It is taken apart by the server. */
export function filterOfAddress(address: URLSearchParams): Filter {
  return { show: address.get("show") ?? "", parts: [] };
}

export function ofParts(parts: FilterPart[]): Filter {
  return { show: parts.map(({ text }) => text).join(", "), parts };
}

/** A part of these words. */
export function partOf(facet: string, title: string, words: string[], negated = false): FilterPart {
  return { facet, title, words, negated, text: (negated ? "not " : "") + words.join(" or ") };
}

/** With one part in the place of another, or none (null). */
export function replaced({ parts }: Filter, at: number, part: FilterPart | null): Filter {
  return ofParts(parts.flatMap((one, place) => (place !== at ? [one] : part ? [part] : [])));
}

/** The part that words of a facet are added to: none where all of it is negated. */
function placeOf({ parts }: Filter, facet: string): number {
  return parts.findIndex((part) => part.facet === facet && !part.negated);
}

/** Whether a phrase is asked for. */
export function asksFor(filter: Filter, facet: string, phrase: string): boolean {
  return filter.parts[placeOf(filter, facet)]?.words.includes(phrase) ?? false;
}

/** With a phrase beside the others of its facet, or without it. */
export function toggled(filter: Filter, facet: string, title: string, phrase: string): Filter {
  const at = placeOf(filter, facet);
  const words = filter.parts[at]?.words ?? [];
  const now = words.includes(phrase) ? words.filter((word) => word !== phrase) : [...words, phrase];
  const part = now.length ? partOf(facet, title, now) : null;
  return at < 0 ? ofParts([...filter.parts, ...(part ? [part] : [])]) : replaced(filter, at, part);
}

/** With one phrase alone in the place of what is asked of a facet; asked for already, without it. */
export function switched(filter: Filter, facet: string, title: string, phrase: string): Filter {
  const at = placeOf(filter, facet);
  const isIt = filter.parts[at]?.words.join() === phrase;
  const part = isIt ? null : partOf(facet, title, [phrase]);
  return at < 0 ? ofParts([...filter.parts, ...(part ? [part] : [])]) : replaced(filter, at, part);
}

export function opposite(part: FilterPart): FilterPart {
  return partOf(part.facet, part.title, part.words, !part.negated);
}
