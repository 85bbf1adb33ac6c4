/** The lines of the spine, and how high each is. */

import type { Frame } from "../../api/client";
import type { Group } from "../../shoot/groups";

export type Item =
  /** unkept: people of the scene who are in no kept frame, once any frame of it is kept. */
  | {
      kind: "scene";
      first: Frame;
      groups: number;
      count: number;
      keepers: number;
      rejects: number;
      gap: number | null;
      unkept: number;
      folded: boolean;
    }
  | { kind: "group"; group: Group };

export const HEIGHTS = { scene: 44, folded: 54, gap: 20, group: 42, frames: 22 };
/** From so many groups on, scenes are folded: all but the one that the person is in. */
const MANY = 1000;
/** Frames of the open group: in a row, and rows at most. */
export const ACROSS = 5;
export const DOWN = 8;

/** here: the scene that the person is in. said: which scenes they folded (true) or opened themselves. */
export function itemsOf(
  groups: Group[],
  frames: Map<number, Frame>,
  here: number | undefined,
  said: ReadonlyMap<number, boolean>,
): Item[] {
  const unkept = unkeptPeople(frames.values());
  const items: Item[] = [];
  let before: Group | undefined;
  let scene: Extract<Item, { kind: "scene" }> | undefined;
  for (const group of groups) {
    if (!scene || before?.first.scene !== group.first.scene) {
      const gap = before ? gapBetween(before.last, group.first) : null;
      scene = {
        kind: "scene",
        first: group.first,
        groups: 0,
        count: 0,
        keepers: 0,
        rejects: 0,
        gap,
        folded: said.get(group.first.scene) ?? (groups.length > MANY && group.first.scene !== here),
        unkept: unkept.get(group.first.scene) ?? 0,
      };
      items.push(scene);
    }
    scene.groups++;
    scene.count += group.ids.length;
    scene.keepers += group.keepers;
    scene.rejects += group.rejects;
    if (!scene.folded) items.push({ kind: "group", group });
    before = group;
  }
  return items;
}

/** By scene, how many of its people are in no kept frame; nothing of scenes in which nothing is kept yet. */
function unkeptPeople(frames: Iterable<Frame>): Map<number, number> {
  const all = new Map<number, Set<number>>();
  const kept = new Map<number, Set<number>>();
  for (const { scene, people, decision, place } of frames) {
    if (place !== "shoot") continue;
    add(all, scene, people);
    if (decision === "keep") add(kept, scene, people);
  }
  return new Map([...kept].map(([scene, there]) => [scene, (all.get(scene)?.size ?? 0) - there.size]));
}

function add(to: Map<number, Set<number>>, scene: number, people: number[]) {
  const there = to.get(scene) ?? new Set();
  for (const person of people) there.add(person);
  to.set(scene, there);
}

function gapBetween(before: Frame, after: Frame): number | null {
  if (!before.captured_at || !after.captured_at) return null;
  return (Date.parse(after.captured_at) - Date.parse(before.captured_at)) / 1000;
}

export function heightOf(item: Item, open: boolean): number {
  if (item.kind === "group") {
    const rows =
      open && item.group.ids.length > 1 ? Math.min(DOWN, Math.ceil(item.group.ids.length / ACROSS)) : 0;
    return HEIGHTS.group + rows * HEIGHTS.frames;
  }
  return (item.folded ? HEIGHTS.folded : HEIGHTS.scene) + (item.gap ? HEIGHTS.gap : 0);
}
