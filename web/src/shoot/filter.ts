/** What part of the shoot is asked for. Which frames pass is the server's to say. */

import type { Decision, RatingRule, Warned } from "../api/client";
import { WARNING_ORDER } from "../ui/warnings";

const DECISIONS: Decision[] = ["keep", "undecided", "reject"];
const RULES: RatingRule[] = ["at_least", "exactly", "at_most", "unrated"];

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

/** The filter through which a shoot is looked at. */
export function filterInForce({ filter, filterOn }: { filter: Filter; filterOn: boolean }): Filter {
  return filterOn ? filter : EVERYTHING;
}

/** The filter as the parameters of a question, without those that ask for nothing. */
export function queryOf(filter: Filter) {
  return {
    decision: filter.decisions.length ? filter.decisions : undefined,
    rating_rule: filter.ratingRule ?? undefined,
    stars: filter.stars || undefined,
    warned: filter.warned || undefined,
    warning: filter.warnings.length ? filter.warnings : undefined,
    faces: filter.faces ?? undefined,
    similar: filter.similar ?? undefined,
    copies: filter.copies || undefined,
  };
}

/** The filter as an address holds it: as the parameters of a question. */
export function filterInAddress(filter: Filter): [string, string][] {
  return Object.entries(queryOf(filter)).flatMap(([name, value]) =>
    value === undefined ? [] : [value].flat().map((one): [string, string] => [name, String(one)]),
  );
}

/** What an address asks for; what it says wrongly is left out. */
export function filterOfAddress(address: URLSearchParams): Filter {
  const among = <T extends string>(name: string, known: T[]) =>
    known.filter((one) => address.getAll(name).includes(one));
  const asked = (name: string) => {
    const said = address.get(name);
    return said === "true" ? true : said === "false" ? false : null;
  };
  const stars = Number(address.get("stars"));
  const [rule] = among("rating_rule", RULES);
  const isMeant = rule === "unrated" || (Number.isInteger(stars) && stars >= 1 && stars <= 5);
  return {
    decisions: among("decision", DECISIONS),
    ratingRule: (isMeant && rule) || null,
    stars: isMeant && rule !== "unrated" ? stars : 0,
    warned: asked("warned") === true,
    warnings: among("warning", WARNING_ORDER),
    faces: asked("faces"),
    similar: asked("similar"),
    copies: asked("copies") === true,
  };
}
