import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback, useState } from "react";
import { api, unwrap } from "../../api/client";
import { type News, useNews } from "../../api/events";
import type { components } from "../../api/schema";
import { useShoot } from "../../shoot/store";
import { keyOfRow, type SyncRow, type Take } from "./rules";

export interface Wanted {
  takes: Map<string, Take>;
  incoming: boolean;
  outgoing: boolean;
}

/** What was settled last: the action of what came in, the plan of what went out. */
export interface Done {
  taken: number;
  out: number;
  batch: number | null;
  plan: number | null;
  changed: number;
  error: string | null;
}

type Plan = components["schemas"]["PlanView"];

/** Marks here held against marks on disk, and settled; and what was settled last, to be taken back. */
export function useSync(frames: number[]) {
  const shootId = useShoot((s) => s.shootId);
  const client = useQueryClient();
  const [done, setDone] = useState<Done | null>(null);
  const [running, setRunning] = useState<number | null>(null);
  const path = { shoot_id: shootId };
  const key = ["sync", shootId, frames.join()];
  const view = useQuery({
    queryKey: key,
    staleTime: 0,
    queryFn: () =>
      api.POST("/api/shoots/{shoot_id}/sync", { params: { path }, body: { frames } }).then(unwrap),
  });
  const again = useCallback(
    () => client.invalidateQueries({ queryKey: ["sync", shootId] }),
    [client, shootId],
  );
  useNews(
    useCallback(
      (news: News) => {
        if (news.shoot_id !== shootId || news.kind !== "plan-ended") return;
        setRunning(null);
        void again();
      },
      [shootId, again],
    ),
  );
  const act = (plan: number, what: "apply" | "reverse") =>
    api.POST(`/api/plans/{plan_id}/${what}`, { params: { path: { plan_id: plan } } }).then(unwrap);
  const settle = useMutation({
    mutationFn: async ({ takes, incoming, outgoing }: Wanted) => {
      const rows = view.data?.rows ?? [];
      const settled = await api
        .POST("/api/shoots/{shoot_id}/sync/settle", {
          params: { path },
          body: {
            frames,
            incoming,
            outgoing,
            takes: rows.filter(({ side }) => side === "both").map((row) => named(row, takes)),
          },
        })
        .then(unwrap);
      const plan: Plan | null = settled.plan;
      const blocked = plan?.files ? (plan.blocked ?? null) : null;
      if (plan?.files && !blocked) {
        setRunning(plan.id);
        await act(plan.id, "apply");
      }
      const wrote = plan?.files && !blocked ? plan.id : null;
      return { ...settled, plan: wrote, out: wrote ? (plan?.files ?? 0) : 0, error: blocked };
    },
    onSuccess: setDone,
    onSettled: again,
  });
  const takeBack = useMutation({
    mutationFn: async ({ batch, plan }: Done) => {
      if (plan !== null) {
        setRunning(plan);
        await act(plan, "reverse");
      }
      if (batch !== null) {
        await api
          .POST("/api/shoots/{shoot_id}/history/take-back", { params: { path }, body: { batch } })
          .then(unwrap);
      }
    },
    onSuccess: () => setDone(null),
    onSettled: again,
  });
  const error = settle.error ?? takeBack.error ?? view.error;
  return { view: view.data, done, running, error, again, settle: settle.mutate, takeBack: takeBack.mutate };
}

function named(row: SyncRow, takes: Map<string, Take>) {
  const { frame_id, field, here, there } = row;
  return { frame_id, field, here, there, take: takes.get(keyOfRow(row)) ?? "later" };
}
