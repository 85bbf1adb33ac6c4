/** Selecting what is like a frame. */

import { api, unwrap } from "../api/client";
import { attempt } from "./errors";
import { labelId } from "./labels";
import { select } from "./selecting";
import { activeFrame, useShoot } from "./store";

const { getState: get } = useShoot;

export const ALIKE = {
  label: "the same label",
  rating: "the same stars",
  decision: "the same decision",
  camera: "the same camera",
  people: "the same people, in this group",
} as const;

export type Likeness = keyof typeof ALIKE;

/** Selects all frames in view that are like the active one. */
export async function selectAlike(by: Likeness) {
  const frame = activeFrame(get());
  if (!frame) return;
  if (by === "camera") return select(await ofCamera(frame.id));
  if (by === "people") return select(await ofPeople(frame.id, frame.group));
  const said = (id: number) => {
    const one = get().frames.get(id);
    return by === "label" ? labelId(one?.label ?? null) : one?.[by];
  };
  const wanted = said(frame.id);
  select(get().visible.filter((id) => said(id) === wanted));
}

async function ofCamera(id: number): Promise<number[]> {
  const params = { path: { frame_id: id } };
  const details = await attempt(() => api.GET("/api/frames/{frame_id}", { params }).then(unwrap));
  if (!details?.camera) return [];
  // Two bodies of one kind are two cameras.
  const show = details.serial ? `serial "${details.serial}"` : `camera "${details.camera}"`;
  const query = { show };
  const view = await attempt(() =>
    api
      .GET("/api/shoots/{shoot_id}/view", { params: { path: { shoot_id: get().shootId }, query } })
      .then(unwrap),
  );
  return view?.ids ?? [];
}

async function ofPeople(id: number, group: number): Promise<number[]> {
  const { visible, frames } = get();
  const among = visible.filter((one) => frames.get(one)?.group === group).slice(0, 500);
  const params = { query: { frame: among } };
  const found = await attempt(() => api.GET("/api/evidence", { params }).then(unwrap));
  const people = (one: number) => new Set(found?.[one]?.faces?.map(({ person }) => person) ?? []);
  const wanted = people(id);
  if (!wanted.size) return [];
  return among.filter((one) => {
    const there = people(one);
    return [...wanted].every((person) => there.has(person));
  });
}
