/** What is selected on the wall. It lives there only: it is put away when the wall is left, however it is left. */

import { line } from "./line";
import { useShoot } from "./store";
import { goneOn } from "./view";

const { getState: get, setState: set } = useShoot;

export function select(ids: number[]) {
  set(goneOn(get().active));
  const { places } = get();
  set({ selection: new Set(ids.filter((id) => places.has(id))) });
}

export function toggleSelected(id: number) {
  const { selection, active } = get();
  const next = new Set(selection.size || active === null ? selection : [active]);
  if (!next.delete(id)) next.add(id);
  set({ selection: next, anchor: id });
}

export function selectRange(to: number) {
  const { anchor, active } = get();
  const { ids, places } = line();
  const from = anchor !== null && places.has(anchor) ? anchor : active;
  if (from === null) return;
  const [a, b] = [places.get(from) ?? 0, places.get(to) ?? 0];
  set({ selection: new Set(ids.slice(Math.min(a, b), Math.max(a, b) + 1)), anchor: from });
}

export function clearSelection() {
  const { active, selection } = get();
  if (selection.size) set({ ...goneOn(active), selection: new Set(), anchor: null });
}

/** Puts the selection away; it can be called back. */
export function putSelectionAway() {
  const { selection, putAway } = get();
  const kept = selection.size ? [...selection] : putAway;
  clearSelection();
  set({ putAway: kept });
}

/** The frames that would be selected again. */
export function canBeCalledBack({ putAway, places }: { putAway: number[]; places: Map<number, number> }) {
  return putAway.filter((id) => places.has(id));
}

export function callSelectionBack() {
  const again = canBeCalledBack(get());
  if (again.length) set({ selection: new Set(again), putAway: [] });
}
