/** What part of the shoot is asked for. Which frames pass is the server's to say. */

import type { Decision, RatingRule, Warned } from "../api/client";

export interface Filter {
  decisions: Decision[];
  ratingRule: RatingRule | null;
  stars: number;
  /** Files that cannot be read, are damaged or have other marks on disk. */
  warned: boolean;
  /** Frames with any of these warnings of the evidence. */
  warnings: Warned[];
  faces: boolean | null;
  /** With or without other frames in their group. */
  similar: boolean | null;
  /** Frames whose content is in the shoot more than once. */
  copies: boolean;
}

export const EVERYTHING: Filter = {
  decisions: [],
  ratingRule: null,
  stars: 0,
  warned: false,
  warnings: [],
  faces: null,
  similar: null,
  copies: false,
};

export function showsAll(filter: Filter): boolean {
  return filter.decisions.length === 0 && !filter.ratingRule && !filter.warned && !looksFor(filter);
}

/** Whether the filter asks for anything that was measured or compared. */
export function looksFor({ warnings, faces, similar, copies }: Filter): boolean {
  return warnings.length > 0 || faces !== null || similar !== null || copies;
}

/** The filter as the parameters of a question. */
export function queryOf(filter: Filter) {
  return {
    decision: filter.decisions.length ? filter.decisions : undefined,
    rating_rule: filter.ratingRule ?? undefined,
    stars: filter.stars,
    warned: filter.warned,
    warning: filter.warnings.length ? filter.warnings : undefined,
    faces: filter.faces ?? undefined,
    similar: filter.similar ?? undefined,
    copies: filter.copies,
  };
}
