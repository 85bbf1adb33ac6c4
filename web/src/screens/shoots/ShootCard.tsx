import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useLocation } from "wouter";
import { api, type ShootCard as Card, pictureUrl, unwrap } from "../../api/client";
import { Whereabouts } from "../../panels/folders/Whereabouts";
import { addressOf } from "../../shoot/address";
import { attempt } from "../../shoot/errors";
import { tryAgain } from "../../shoot/tryAgain";
import { Button, Hint } from "../../ui/controls";
import { bytes, count, day, dayOf, duration, figure } from "../../ui/format";
import { DecisionBar } from "../../ui/marks";

function heldSince(at: string | null): string {
  return at ? `, since ${dayOf(at)}` : "";
}

/** One shoot: what it is, how far it is, and what is to be said of its folder. */
export function ShootCard({ card }: { card: Card }) {
  const client = useQueryClient();
  const [, navigate] = useLocation();
  const { progress } = card;
  const busy = !["done", "waiting", "unreadable", "paused"].includes(progress.state);
  const [failed, setFailed] = useState(false);
  const span = [...new Set([card.first_at, card.last_at].filter((at) => at !== null).map(day))].join(" – ");
  const open = async () => {
    const where = { params: { path: { shoot_id: card.id } } };
    await attempt(() => api.POST("/api/shoots/{shoot_id}/refresh", where));
    navigate(addressOf(card.id, "wall"));
  };
  const takeOff = async () => {
    const where = { params: { path: { shoot_id: card.id } } };
    await attempt(() => api.DELETE("/api/shoots/{shoot_id}", where).then(unwrap));
    await client.invalidateQueries({ queryKey: ["shoots"] });
  };
  return (
    <article className="overflow-hidden rounded-lg border border-edge bg-wall">
      <Link
        href={addressOf(card.id, "wall")}
        onClick={(event) => {
          event.preventDefault();
          void open();
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
            <DecisionBar keepers={card.keepers} rejects={card.rejects} total={card.frames} />
          </span>
          <span className="mt-1.5 block text-ink2">
            {figure(card.keepers)} kept · {figure(card.rejects)} rejected ·{" "}
            {figure(card.frames - card.keepers - card.rejects)} undecided
            {card.held > 0 &&
              ` · ${figure(card.held)} held back (${bytes(card.held_bytes)}${heldSince(card.held_since)})`}
            {card.missing > 0 && ` · ${figure(card.missing)} missing`}
          </span>
          {busy && (
            <span className="block text-ink2">
              {progress.state === "deriving" || progress.state === "measuring"
                ? `measured ${figure(progress.measured)} of ${figure(progress.listed)}`
                : "reading files"}
              {progress.seconds_left ? ` · ${duration(progress.seconds_left)} left` : ""}
            </span>
          )}
          {card.gone ? (
            <span className="block">
              {card.silent
                ? "The disk does not answer. Check its connection; you can go on marking."
                : "Its folder cannot be reached. Connect its disk, or say where it is now; its marks are kept."}
            </span>
          ) : (
            progress.message && <span className="block">{progress.message}</span>
          )}
          {card.problems > 0 && <span className="block">{count(card.problems, "file")} cannot be read</span>}
        </span>
      </Link>
      {(card.gone || card.half_done || card.again > 0) && (
        <div className="flex flex-wrap gap-2 px-4 pt-2">
          {card.gone && !card.silent && <Whereabouts shootId={card.id} title={card.title} />}
          {card.half_done && (
            <Button onClick={() => navigate(addressOf(card.id, "handoff"))}>A plan is half done …</Button>
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
