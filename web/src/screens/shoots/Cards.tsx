import { useQuery } from "@tanstack/react-query";
import { useLocation } from "wouter";
import { api, unwrap } from "../../api/client";
import { Button } from "../../ui/controls";
import { bytes, count } from "../../ui/format";

const LOOK_EVERY_MS = 3000;

/** Where to copy from: the address of its page. */
export function cardAddress(path: string): string {
  return `/card?${new URLSearchParams({ from: path })}`;
}

/** The cards that are in, with what is new on them. */
export function Cards() {
  const [, navigate] = useLocation();
  const { data } = useQuery({
    queryKey: ["cards"],
    queryFn: () => api.GET("/api/cards").then(unwrap),
    refetchInterval: LOOK_EVERY_MS,
  });
  if (!data?.length) return null;
  return (
    <ul aria-label="Cards" className="mb-5 flex flex-wrap gap-3">
      {data.map((card) => (
        <li
          key={card.path}
          data-testid="card"
          className="flex items-center gap-4 rounded-lg border border-edge bg-wall px-4 py-2.5"
        >
          <CardShape />
          <span>
            <b className="block font-semibold">{card.name}</b>
            <span className="block text-ink2">
              {count(card.frames, "frame")}, {bytes(card.bytes)} ·{" "}
              {card.new ? `${card.new} not here yet` : "all here already"}
            </span>
          </span>
          <Button look={card.new ? "main" : "plain"} onClick={() => navigate(cardAddress(card.path))}>
            Copy …
          </Button>
        </li>
      ))}
    </ul>
  );
}

/** A card with its cut corner. */
function CardShape() {
  return (
    <svg width="22" height="28" viewBox="0 0 22 28" aria-hidden="true" className="text-ink2">
      <path d="M1 1h14l6 6v20H1z" fill="none" stroke="currentColor" strokeWidth="1.5" />
      <path d="M5 2v6M9 2v6M13 2v6" stroke="currentColor" strokeWidth="1.5" />
    </svg>
  );
}
