/** Everything that the palette leads to: commands, filters with a name, passes, scenes, frames. */

import { commandsOf } from "../../keys/inForce";
import { keyName } from "../../keys/press";
import { activate } from "../../shoot/moving";
import { useShoot } from "../../shoot/store";
import { setFilter } from "../../shoot/view";
import { beginPass, resumeWalk } from "../../shoot/walk/walking";
import { clock, shortName } from "../../ui/format";
import { misfit, plain } from "./rank";

export interface Entry {
  /** The same in every shoot, where it can be. */
  id: string;
  title: string;
  /** What kind of thing it is. */
  kind: string;
  key?: string;
  run: (at: number) => void;
}

interface NamedFilter {
  name: string;
  show: string;
}

/** begun: the walk with it that is not at its end. */
export interface PassToBegin {
  name: string;
  begun: number | null;
}

const SHOWN = 12;
const ITSELF = "palette";

/** The entries that fit what is typed, the best first; of what fits alike, those used last. */
export function found(
  screen: string,
  typed: string,
  { filters, passes }: { filters: NamedFilter[]; passes: PassToBegin[] },
  recent: string[],
): Entry[] {
  const all = [...commands(screen), ...ofFilters(filters), ...ofPasses(passes), ...scenes()];
  const place = new Map(recent.map((id, at) => [id, at]));
  const ranked = all.flatMap((entry) => {
    const cost = misfit(typed, entry.title);
    const used = place.get(entry.id);
    // What was used lately comes first where little is typed, and before what fits no better.
    return cost === null ? [] : [{ entry, cost: cost - (used === undefined ? 0 : 1.5 - used / 100) }];
  });
  const best = ranked.sort((a, b) => a.cost - b.cost).map(({ entry }) => entry);
  return [...framesCalled(typed), ...best].slice(0, SHOWN);
}

function commands(screen: string): Entry[] {
  return commandsOf(screen)
    .filter(({ id, onEnd }) => id !== ITSELF && !onEnd)
    .map(({ id, title, section, keys, run }) => ({
      id,
      title,
      kind: section,
      key: keys[0] && keyName(keys[0]),
      run,
    }));
}

function ofFilters(filters: NamedFilter[]): Entry[] {
  return filters.map(({ name, show }) => ({
    id: `filter ${name}`,
    title: name,
    kind: `filter: ${show}`,
    run: () => setFilter({ show, parts: [] }),
  }));
}

function ofPasses(passes: PassToBegin[]): Entry[] {
  return passes.map(({ name, begun }) => ({
    id: `pass ${name}`,
    title: begun === null ? `Begin the pass ${name}` : `Go on with the pass ${name}`,
    kind: "pass",
    run: () => void (begun === null ? beginPass(name) : resumeWalk(begun)),
  }));
}

function scenes(): Entry[] {
  const { visible, frames } = useShoot.getState();
  const first = new Map<number, number>();
  for (const id of visible) {
    const scene = frames.get(id)?.scene;
    if (scene !== undefined && !first.has(scene)) first.set(scene, id);
  }
  return [...first].map(([scene, id]) => ({
    id: `scene ${scene}`,
    title: `Scene ${scene + 1}, ${clock(frames.get(id)?.captured_at ?? null)}`,
    kind: "go there",
    run: (at) => activate(id, at),
  }));
}

/** Frames in view whose number ends with what is typed, or whose name holds it. */
function framesCalled(typed: string): Entry[] {
  const wanted = plain(typed.trim());
  if (!/\d{2,}$/.test(wanted)) return [];
  const { visible, frames } = useShoot.getState();
  const fits = (name: string) => (/^\d+$/.test(wanted) ? name.endsWith(wanted) : name.includes(wanted));
  return visible
    .filter((id) => fits(plain(shortName(frames.get(id)?.name ?? ""))))
    .slice(0, 5)
    .map((id) => ({
      id: `frame ${id}`,
      title: shortName(frames.get(id)?.name ?? ""),
      kind: `frame, scene ${(frames.get(id)?.scene ?? 0) + 1}`,
      run: (at) => activate(id, at),
    }));
}
