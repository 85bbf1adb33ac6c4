import { type PointerEvent, useRef, useState } from "react";
import type { Decision } from "../api/client";
import { figure } from "./format";

/** The grain: the mark of a keeper, and of Winnow itself. */
export function Grain({ size = 14, className = "" }: { size?: number; className?: string }) {
  return (
    <svg width={size} height={size} viewBox="0 0 16 16" aria-hidden="true" className={className}>
      <g transform="rotate(24 8 8)">
        <path
          d="M8 0.5c3 0 4.4 3 4.4 6.6S10.600 15.500 8 15.500 3.600 10.700 3.600 7.100 5 .5 8 .5z"
          fill="var(--color-straw)"
        />
        <path d="M8 3v10" stroke="#0009" strokeWidth="1" />
      </g>
    </svg>
  );
}

const STARS = [1, 2, 3, 4, 5];

export function Stars({ rating, ghost = false }: { rating: number; ghost?: boolean }) {
  if (!rating && !ghost) return null;
  return (
    <span
      role="img"
      aria-label={`${rating} of 5 stars`}
      className="text-[11px] tracking-[1px] whitespace-nowrap"
    >
      {STARS.map((n) => (
        <span key={n} className={n <= rating ? "text-ink" : ghost ? "text-ghost" : "hidden"}>
          ★
        </span>
      ))}
    </span>
  );
}

/** Stars to click or to drag across: the one that is set clears them, as does dragging off to the left. */
export function StarButtons(props: {
  rating: number;
  name: string;
  onRate: (rating: number, at: number) => void;
}) {
  const { rating, name, onRate } = props;
  const [drawn, setDrawn] = useState<number | null>(null);
  const stroke = useRef({ from: -1, moved: false });
  const row = useRef<HTMLFieldSetElement>(null);
  const shown = drawn ?? rating;
  const starAt = (x: number) => {
    const box = row.current?.getBoundingClientRect();
    if (!box) return 0;
    return Math.max(0, Math.min(5, Math.ceil(((x - box.left) / box.width) * 5)));
  };
  const end = (event: PointerEvent, isMeant: boolean) => {
    const { from, moved } = stroke.current;
    stroke.current.from = -1;
    setDrawn(null);
    if (from < 0 || !isMeant) return;
    const n = starAt(event.clientX);
    onRate(!moved && n === rating ? 0 : n, event.timeStamp);
  };
  return (
    <fieldset
      ref={row}
      aria-label={`${rating} of 5 stars`}
      className="flex shrink-0 touch-none"
      onPointerDown={(event) => {
        if (event.button !== 0) return;
        event.stopPropagation();
        const n = starAt(event.clientX);
        stroke.current = { from: n, moved: false };
        row.current?.setPointerCapture(event.pointerId);
      }}
      onPointerMove={(event) => {
        if (stroke.current.from < 0) return;
        const n = starAt(event.clientX);
        if (n === stroke.current.from && !stroke.current.moved) return;
        stroke.current.moved = true;
        setDrawn(n);
      }}
      onPointerUp={(event) => end(event, true)}
      onPointerCancel={(event) => end(event, false)}
    >
      {STARS.map((n) => (
        <button
          key={n}
          type="button"
          tabIndex={-1}
          aria-label={`${n === 1 ? "1 star" : `${n} stars`} for ${name}`}
          // The pointer was heard already; this is a key.
          onClick={(event) => event.detail === 0 && onRate(n === rating ? 0 : n, event.timeStamp)}
          className={`min-h-6 w-3 text-[11px] hover:text-ink ${n <= shown ? "text-ink" : "text-ghost"}`}
        >
          ★
        </button>
      ))}
    </fieldset>
  );
}

export const DECISION_WORDS: Record<Decision, string> = {
  keep: "kept",
  reject: "rejected",
  undecided: "undecided",
};

/** Kept, rejected and open shares of a set of frames. */
export function DecisionBar({
  keepers,
  rejects,
  total,
}: {
  keepers: number;
  rejects: number;
  total: number;
}) {
  const share = (n: number) => `${total ? (100 * n) / total : 0}%`;
  return (
    <span
      role="img"
      aria-label={`${figure(keepers)} kept, ${figure(rejects)} rejected of ${figure(total)}`}
      className="flex h-1 w-full overflow-hidden rounded-full bg-line"
    >
      <span className="h-full bg-straw" style={{ width: share(keepers) }} />
      <span
        className="h-full"
        style={{
          width: share(rejects),
          backgroundImage:
            "repeating-linear-gradient(115deg,var(--color-ink3) 0 1.5px,transparent 1.5px 4px)",
        }}
      />
    </span>
  );
}
