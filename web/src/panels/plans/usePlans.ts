import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback, useState } from "react";
import { api, type PlanView, type PlanWish, unwrap } from "../../api/client";
import { type News, useNews } from "../../api/events";
import { inWords } from "../../api/words";

export type Wish = Partial<PlanWish> & Pick<PlanWish, "kind">;
export type PlanAct = "apply" | "reverse" | "stop";

/** How far a plan is that is under way. */
export type Running = Record<number, { done: number; total: number }>;

/** A wish with all that it does not say. */
export function whole(wish: Wish): PlanWish {
  return {
    with_marks: true,
    keep_folders: false,
    mine: [],
    all_mine: false,
    show: "",
    into: "nothing",
    frames: [],
    ...wish,
  };
}

/** The plans of a shoot: the one that is proposed, those that were applied, and what is done with them. */
export function usePlans(shootId: number) {
  const client = useQueryClient();
  const [proposed, setProposed] = useState<PlanView | null>(null);
  const [error, setError] = useState<string | null>(null);
  const past = useQuery({
    queryKey: ["plans", shootId],
    queryFn: () =>
      api.GET("/api/shoots/{shoot_id}/plans", { params: { path: { shoot_id: shootId } } }).then(unwrap),
  });
  const running = useRunning(shootId);
  const attempt = async (request: () => Promise<PlanView>) => {
    setError(null);
    try {
      return await request();
    } catch (problem) {
      setError(inWords(problem));
      return null;
    }
  };
  const make = async (wish: Wish) => {
    setProposed(null);
    const asked = { params: { path: { shoot_id: shootId } }, body: whole(wish) };
    setProposed(await attempt(() => api.POST("/api/shoots/{shoot_id}/plans", asked).then(unwrap)));
  };
  const act = async (planId: number, what: PlanAct) => {
    const done = await attempt(() =>
      api.POST(`/api/plans/{plan_id}/${what}`, { params: { path: { plan_id: planId } } }).then(unwrap),
    );
    if (done && what === "apply") setProposed(null);
    await client.invalidateQueries({ queryKey: ["plans", shootId] });
  };
  return {
    proposed,
    past: past.data,
    running,
    error,
    make,
    act,
    propose: setProposed,
    drop: () => setProposed(null),
  };
}

function useRunning(shootId: number): Running {
  const client = useQueryClient();
  const [running, setRunning] = useState<Running>({});
  useNews(
    useCallback(
      (news: News) => {
        if (news.shoot_id !== shootId) return;
        if (news.kind === "plan") setRunning((now) => ({ ...now, [news.plan_id]: news }));
        if (news.kind === "plan-ended") {
          setRunning(({ [news.plan_id]: _, ...rest }) => rest);
          void client.invalidateQueries({ queryKey: ["plans", shootId] });
        }
      },
      [client, shootId],
    ),
  );
  return running;
}
