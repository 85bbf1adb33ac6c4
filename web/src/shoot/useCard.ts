import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback } from "react";
import { api, type ShootCard, unwrap } from "../api/client";
import { type News, useNews } from "../api/events";

/** The card of one shoot, asked for anew when its folder came or went and when a plan ended. */
export function useCard(shootId: number): ShootCard | undefined {
  const client = useQueryClient();
  useNews(
    useCallback(
      (news: News) => {
        const ended = news.kind === "progress" ? ["unreadable", "done"].includes(news.state) : false;
        if (news.shoot_id === shootId && (ended || news.kind === "plan-ended")) {
          void client.invalidateQueries({ queryKey: ["card", shootId] });
        }
      },
      [client, shootId],
    ),
  );
  return useQuery({
    queryKey: ["card", shootId],
    enabled: shootId > 0,
    queryFn: () =>
      api.GET("/api/shoots/{shoot_id}", { params: { path: { shoot_id: shootId } } }).then(unwrap),
  }).data;
}
