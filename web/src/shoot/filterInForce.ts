import { EVERYTHING, type Filter } from "./filter";
import { passNow } from "./walk/store";

/** The filter through which a shoot is looked at: a pass has its own frames, whatever was asked for before it. */
export function filterInForce({ filter, filterOn }: { filter: Filter; filterOn: boolean }): Filter {
  return filterOn && !passNow() ? filter : EVERYTHING;
}
