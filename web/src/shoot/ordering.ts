/** The order of the wall: chosen, remembered, asked for. */

import { settings, useSettings } from "../ui/settings";
import { COLUMN, fetchColumns } from "./columns";
import { attempt } from "./errors";
import { isByTime, line, useOrdering, type Value } from "./line";
import { activate } from "./moving";
import { useShoot } from "./store";

const { getState: get, setState: set } = useOrdering;

/** Counts what was asked for: an answer that comes late is none. */
let asked = 0;

/** Sorts the wall, by what is known now. */
async function orderBy(by: string, down: boolean) {
  const own = ++asked;
  const { shootId } = useShoot.getState();
  const column = COLUMN.get(by);
  if (!column || isByTime({ by })) return set({ by: "capture", down, values: null });
  const told = column.asks
    ? await attempt(() => fetchColumns(shootId, column.asks ? [column.asks] : []))
    : new Map();
  if (!told || own !== asked || useShoot.getState().shootId !== shootId) return;
  const values = new Map<number, Value>();
  for (const frame of useShoot.getState().frames.values())
    values.set(frame.id, column.value(frame, told.get(by)?.get(frame.id) ?? null));
  set({ by, down, values });
}

/** Sorts it and remembers that. Who sorts by something begins at its first; back in capture order they stay where they
 * are. */
export async function chooseOrder(by: string, down: boolean) {
  useSettings.setState({ wallOrder: { by, down } });
  await orderBy(by, down);
  if (!isByTime(get())) activate(line().ids[0] ?? null);
}

/** Sorts anew by what is known and marked now. */
export function orderAgain() {
  const { by, down } = get();
  void orderBy(by, down);
}

/** The wall comes on screen; returns what ends that. */
export function enterWall(): () => void {
  set({ onWall: true });
  const { by, down } = settings().wallOrder;
  void orderBy(by, down);
  return () => set({ onWall: false });
}
