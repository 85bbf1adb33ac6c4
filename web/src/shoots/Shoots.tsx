import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback, useState } from "react";
import { Link, useLocation } from "wouter";
import { api, pictureUrl, type ShootCard, unwrap } from "../api/client";
import { useNews } from "../api/events";
import { Button, Hint } from "../parts/controls";
import { count, day, duration } from "../parts/format";
import { DecisionBar, Grain } from "../parts/marks";
import { tryAgain } from "../shoot/tryAgain";
import { CacheRoom } from "./CacheRoom";
import { FolderChooser, type Question } from "./FolderChooser";
import { setWhereabouts, Whereabouts } from "./Whereabouts";

/** The shoots known here. */
export function Shoots() {
  const client = useQueryClient();
  const [, navigate] = useLocation();
  const { data, error } = useQuery({
    queryKey: ["shoots"],
    queryFn: () => api.GET("/api/shoots").then(unwrap),
  });
  useNews(
    useCallback(
      () => void client.invalidateQueries({ queryKey: ["shoots"] }, { cancelRefetch: false }),
      [client],
    ),
  );
  const open = async (path: string, asNew = false): Promise<Question | undefined> => {
    const answer = await api.POST("/api/shoots", { body: { path, as_new: asNew } });
    const known = answer.error?.moved;
    if (known) {
      return {
        text: answer.error?.detail ?? "",
        answers: [
          {
            words: `It is '${known.title}'`,
            main: true,
            run: async () => {
              await setWhereabouts(known.shoot_id, path);
              navigate(`/shoots/${known.shoot_id}/wall`);
            },
          },
          { words: "Open it as a new shoot, without its marks", run: () => open(path, true) },
        ],
      };
    }
    navigate(`/shoots/${unwrap(answer).id}/wall`);
    return undefined;
  };
  const chooser = (
    <FolderChooser
      title="Open a folder as a shoot"
      act="Open"
      trigger={<Button look="main">Open a folder …</Button>}
      onChoose={open}
    />
  );
  return (
    <div className="flex h-full flex-col">
      <header className="flex h-11 shrink-0 items-center gap-3 border-b border-edge bg-wall px-3.5">
        <span className="flex items-center gap-1.5 text-[15px] font-semibold">
          <Grain size={17} />
          winnow
        </span>
        <h1 className="flex-1 text-ink2">Shoots</h1>
        {chooser}
      </header>
      <main className="min-h-0 flex-1 overflow-y-auto p-5">
        {error && <p role="alert">{error.message}</p>}
        {data?.length === 0 && (
          <div className="grid h-full place-items-center text-center text-ink2">
            <div>
              <Grain size={40} className="mx-auto mb-3" />
              <p className="pb-1 text-base text-ink">No shoot is open yet.</p>
              <p className="pb-4">
                Point at a folder of photographs; its sub-folders come along. Nothing in it is changed.
              </p>
              {chooser}
            </div>
          </div>
        )}
        <ul className="grid grid-cols-[repeat(auto-fill,minmax(272px,1fr))] gap-5">
          {data?.map((card) => (
            <li key={card.id}>
              <Card card={card} />
            </li>
          ))}
        </ul>
      </main>
      <CacheRoom />
    </div>
  );
}

function Card({ card }: { card: ShootCard }) {
  const client = useQueryClient();
  const [, navigate] = useLocation();
  const { progress } = card;
  const busy = !["done", "waiting", "unreadable", "paused"].includes(progress.state);
  const [failed, setFailed] = useState(false);
  const span = [...new Set([card.first_at, card.last_at].filter((at) => at !== null).map(day))].join(" – ");
  const refresh = async () => {
    await api.POST("/api/shoots/{shoot_id}/refresh", { params: { path: { shoot_id: card.id } } });
    navigate(`/shoots/${card.id}/wall`);
  };
  const takeOff = async () => {
    await api.DELETE("/api/shoots/{shoot_id}", { params: { path: { shoot_id: card.id } } });
    await client.invalidateQueries({ queryKey: ["shoots"] });
  };
  return (
    <article className="overflow-hidden rounded-lg border border-edge bg-wall">
      <Link
        href={`/shoots/${card.id}/wall`}
        onClick={(event) => {
          event.preventDefault();
          void refresh();
        }}
        className="block no-underline"
      >
        <span className="block h-40 bg-pit">
          {card.cover && !failed && (
            <img
              src={pictureUrl(card.cover, busy ? "glimpse" : "thumb")}
              alt=""
              onError={() => setFailed(true)}
              className="size-full object-cover"
            />
          )}
        </span>
        <span className="block px-4 pt-3">
          <b className="block truncate text-[15px] font-semibold">{card.title}</b>
          <span className="block text-ink2">
            {span || "no dates"} · {count(card.frames, "frame")}
          </span>
          <span className="mt-2 block">
            <DecisionBar picks={card.picks} rejects={card.rejects} total={card.frames} />
          </span>
          <span className="mt-1.5 block text-ink2">
            {card.picks} kept · {card.rejects} rejected · {card.frames - card.picks - card.rejects} to decide
            {card.held > 0 && ` · ${card.held} held back`}
            {card.missing > 0 && ` · ${card.missing} missing`}
          </span>
          {busy && (
            <span className="block text-ink2">
              {progress.state === "deriving" || progress.state === "measuring"
                ? `measured ${progress.measured} of ${progress.listed}`
                : "reading files"}
              {progress.seconds_left ? ` · ${duration(progress.seconds_left)} left` : ""}
            </span>
          )}
          {card.gone ? (
            <span className="block">
              Its folder cannot be reached. Connect its disk, or say where it is now; its marks are kept.
            </span>
          ) : (
            progress.message && <span className="block">{progress.message}</span>
          )}
          {card.problems > 0 && <span className="block">{count(card.problems, "file")} cannot be read</span>}
        </span>
      </Link>
      {(card.gone || card.half_done || card.again > 0) && (
        <div className="flex flex-wrap gap-2 px-4 pt-2">
          {card.gone && <Whereabouts shootId={card.id} title={card.title} />}
          {card.half_done && (
            <Button onClick={() => navigate(`/shoots/${card.id}/handoff`)}>A plan is half done …</Button>
          )}
          {card.again > 0 && !card.gone && (
            <Button onClick={() => void tryAgain(card.id)}>Try {count(card.again, "file")} again</Button>
          )}
        </div>
      )}
      <div className="flex items-center gap-3 px-4 pt-1 pb-3">
        <span className="min-w-0 flex-1 truncate text-xs text-ink3" title={card.folders.join("\n")}>
          {card.folders.join(", ")}
        </span>
        <Hint text="Off this list only. No file is touched; opening the folder again brings all marks back.">
          <button type="button" onClick={takeOff} className="text-xs whitespace-nowrap text-ink2 underline">
            take off the list
          </button>
        </Hint>
      </div>
      {card.scan_note && (
        <details className="border-t border-edge px-4 py-2 text-xs text-ink2">
          <summary>Left out</summary>
          <pre className="font-sans whitespace-pre-wrap">{card.scan_note}</pre>
        </details>
      )}
    </article>
  );
}
