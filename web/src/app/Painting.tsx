import { LabelSign } from "../panels/labels/LabelSign";
import { useLabels } from "../shoot/labels";
import { type Paint, stopPainting, togglePainting, usePaint } from "../shoot/painting";
import { Chip, Hint } from "../ui/controls";
import { Grain } from "../ui/marks";

/** Painting: which mark the pointer puts on frames. The keys of marks choose it as well. */
export function Painting() {
  const { on, paint } = usePaint();
  const labels = useLabels((s) => s.labels);
  if (!on) {
    return (
      <Hint text="Paint a mark over frames" command="paint">
        <button
          type="button"
          onClick={togglePainting}
          className="min-h-6 underline decoration-dotted underline-offset-4 max-[1100px]:hidden"
        >
          paint
        </button>
      </Hint>
    );
  }
  const choice = (one: Paint, text: string, sign: React.ReactNode) => (
    <Chip
      key={text}
      aria-label={`Paint: ${text}`}
      on={paint?.kind === one.kind && paint.value === one.value}
      onClick={() => usePaint.setState({ paint: one })}
    >
      {sign}
    </Chip>
  );
  return (
    <span
      role="toolbar"
      aria-label="Paint"
      className="flex items-center gap-1 rounded border border-straw bg-warm px-1.5 text-ink"
    >
      {paint ? "painting" : "paint: press the key of a mark"}
      {choice({ kind: "decision", value: "keep" }, "keep", <Grain size={11} />)}
      {choice({ kind: "decision", value: "reject" }, "reject", "reject")}
      {[3, 5].map((n) => choice({ kind: "rating", value: n }, `${n} stars`, `${n} ★`))}
      {labels.map(({ id, name }) =>
        choice({ kind: "label", value: id }, `label ${name}`, <LabelSign named={id} size={12} />),
      )}
      <button type="button" onClick={stopPainting} className="min-h-6 underline underline-offset-2">
        end
      </button>
    </span>
  );
}
