import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { api, unwrap } from "../../api/client";
import { useShoot } from "../../shoot/store";
import { useRested } from "../../ui/useRested";

const SHOWN = 500;

/** What a text with tokens becomes on a frame. */
export function Filled({ text, frameId }: { text: string; frameId: number | undefined }) {
  const shootId = useShoot((s) => s.shootId);
  // One line is shown; a long text would not fit into an address. Whole characters, not halves of them.
  const rested = [...(useRested(text, 200) ?? "")].slice(0, SHOWN).join("");
  const hasToken = /\{[a-z]+(:[^{}]*)?\}/.test(text);
  const { data } = useQuery({
    queryKey: ["filled", shootId, frameId, rested],
    enabled: rested !== "" && hasToken && frameId !== undefined,
    placeholderData: keepPreviousData,
    queryFn: () =>
      api
        .GET("/api/shoots/{shoot_id}/words/filled", {
          params: { path: { shoot_id: shootId }, query: { frame_id: frameId ?? 0, text: rested } },
        })
        .then(unwrap),
  });
  if (!hasToken || !data) return null;
  return <p className="truncate pt-0.5 text-xs text-ink2">on the first: {data.text}</p>;
}
