import { keepPreviousData, useInfiniteQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, newKey, pictureUrl, underKey, unwrap } from "../../api/client";
import type { components } from "../../api/schema";
import { keyOf } from "../../keys/inForce";
import { attempt } from "../../shoot/errors";
import { catchUp } from "../../shoot/opening";
import { useShoot } from "../../shoot/store";
import { setFilter } from "../../shoot/view";
import { takeBackWalk } from "../../shoot/walk/takingBack";
import { Button, Kbd } from "../../ui/controls";
import { count, shortMoment } from "../../ui/format";
import { Thumbnail } from "../../ui/Thumbnail";
import { useRested } from "../../ui/useRested";
import { togglePanel, usePanels } from "../shown";

type Entry = components["schemas"]["HistoryEntry"];

/** Everything that was done to the shoot, the newest first; any point of it can be gone back to, and forward again. */
export function History() {
  const shown = usePanels((s) => s.history && !s.bare);
  return shown ? <Panel /> : null;
}

function Panel() {
  const shootId = useShoot((s) => s.shootId);
  const revision = useShoot((s) => s.revision);
  const last = useShoot((s) => s.undo?.batch ?? 0);
  const [search, setSearch] = useState("");
  const asked = useRested(search, 200);
  const { data, hasNextPage, fetchNextPage } = useInfiniteQuery({
    queryKey: ["history", shootId, revision, last, asked],
    placeholderData: keepPreviousData,
    initialPageParam: undefined as number | undefined,
    queryFn: ({ pageParam }) =>
      api
        .GET("/api/shoots/{shoot_id}/history", {
          params: { path: { shoot_id: shootId }, query: { before: pageParam, search: asked } },
        })
        .then(unwrap),
    getNextPageParam: (page) => (page.more ? page.entries.at(-1)?.id : undefined),
  });
  const entries = data?.pages.flatMap((page) => page.entries) ?? [];
  return (
    <aside
      aria-label="History"
      data-testid="history"
      className="flex w-80 shrink-0 flex-col border-l border-edge bg-wall max-[900px]:fixed max-[900px]:top-24 max-[900px]:right-0 max-[900px]:bottom-9 max-[900px]:z-30"
    >
      <div className="flex items-center gap-2 p-3 pb-2">
        <h2 className="flex-1 font-semibold">History</h2>
        <button
          type="button"
          title="Hide the history"
          onClick={() => togglePanel("history")}
          className="flex min-h-6 items-center"
        >
          <Kbd>{keyOf("history")}</Kbd>
        </button>
      </div>
      <input
        type="search"
        aria-label="Search the history"
        placeholder="what, who, or under which filter"
        value={search}
        onChange={(event) => setSearch(event.target.value)}
        className="mx-3 mb-2 h-7 rounded border border-line bg-pit px-2 placeholder:text-ink3"
      />
      <ol className="min-h-0 flex-1 overflow-y-auto" aria-label="What was done, the newest first">
        {entries.map((entry, place) => (
          <Row
            key={entry.id}
            entry={entry}
            isLast={entry.id === last}
            isNewest={entries.findIndex(({ walk }) => walk === entry.walk) === place}
          />
        ))}
        {data && entries.length === 0 && (
          <li className="p-3 text-ink2">{asked ? "Nothing like that was done." : "Nothing was done yet."}</li>
        )}
        {hasNextPage && (
          <li className="p-3">
            <Button onClick={() => void fetchNextPage()}>Earlier ones</Button>
          </li>
        )}
        {data && !hasNextPage && !asked && entries.length > 0 && (
          <li className="p-3">
            <Button disabled={last === 0} onClick={() => void go(shootId, null)}>
              Back to the beginning
            </Button>
          </li>
        )}
      </ol>
    </aside>
  );
}

interface RowProps {
  entry: Entry;
  isLast: boolean;
  /** Nothing later of its pass was done. */
  isNewest: boolean;
}

function Row({ entry, isLast, isNewest }: RowProps) {
  const { id, title, frames, at, actor, show, sample, taken_back, can_go, kind, walk, in_pass } = entry;
  const shootId = useShoot((s) => s.shootId);
  return (
    <li
      aria-current={isLast ? "step" : undefined}
      className={`border-t border-edge px-3 py-2 ${isLast ? "bg-held" : ""}`}
    >
      <div className="flex gap-2">
        <span className="flex w-20 shrink-0 gap-px">
          {sample.map((frame) => (
            <Thumbnail
              key={frame.id}
              src={pictureUrl(frame, "thumb")}
              className={`h-8 w-6 flex-1 object-cover ${taken_back ? "opacity-40" : ""}`}
            />
          ))}
        </span>
        <span className="min-w-0 flex-1 leading-tight">
          <span className={taken_back ? "text-ink2 line-through" : ""}>{title}</span>
          <span className="block text-xs text-ink2">
            {shortMoment(at)} · {count(frames, "frame")}
            {actor !== "person" && ` · ${actor}`}
            {in_pass && ` · in ${in_pass}`}
            {taken_back && " · taken back"}
          </span>
          {show && (
            <button
              type="button"
              title="Show what was in view then"
              onClick={() => setFilter({ show, parts: [] })}
              className="block max-w-full truncate text-left text-xs text-ink2 underline decoration-dotted underline-offset-2"
            >
              {show}
            </button>
          )}
        </span>
      </div>
      <div className="flex gap-2 pt-1 pl-[88px] text-xs">
        {can_go && !isLast && (
          <button
            type="button"
            onClick={() => void go(shootId, id)}
            className="min-h-6 underline underline-offset-2"
          >
            {taken_back ? "forward to here" : "back to here"}
            <span className="sr-only">: {title}</span>
          </button>
        )}
        {kind === "mark" && !taken_back && (
          <button
            type="button"
            onClick={() => void takeBack(shootId, id)}
            className="min-h-6 underline underline-offset-2"
          >
            take this back alone<span className="sr-only">: {title}</span>
          </button>
        )}
        {walk !== null && isNewest && (
          <button
            type="button"
            onClick={() => void takeBackWalk(walk)}
            className="min-h-6 underline underline-offset-2"
          >
            undo the whole pass<span className="sr-only">: {in_pass}</span>
          </button>
        )}
        {isLast && <span className="leading-6 text-ink2">here</span>}
      </div>
    </li>
  );
}

async function go(shootId: number, batch: number | null) {
  const wish = { params: { path: { shoot_id: shootId } }, headers: underKey(newKey()), body: { batch } };
  await attempt(() => api.POST("/api/shoots/{shoot_id}/history/go", wish).then(unwrap));
  await catchUp();
}

async function takeBack(shootId: number, batch: number) {
  const wish = { params: { path: { shoot_id: shootId } }, headers: underKey(newKey()), body: { batch } };
  await attempt(() => api.POST("/api/shoots/{shoot_id}/history/take-back", wish).then(unwrap));
  await catchUp();
}
