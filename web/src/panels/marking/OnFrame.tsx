import type { Frame } from "../../api/client";
import { decide, label, rate, scopeWith } from "../../shoot/deciding";
import { labelId, useLabels } from "../../shoot/labels";
import { shortName } from "../../ui/format";
import { Grain, StarButtons } from "../../ui/marks";
import { LabelSign } from "../labels/LabelSign";

/** Decision, stars and labels, to be set on the frame itself: with the scope, the undo and the words of their keys. */
export function OnFrame({ frame }: { frame: Frame }) {
  const name = shortName(frame.name);
  const decideHere = (decision: "keep" | "reject") => (event: { timeStamp: number }) =>
    decide(frame.decision === decision ? "undecided" : decision, event.timeStamp, scopeWith(frame.id), true);
  return (
    <div
      className="over-picture absolute bottom-0 left-0 z-20 flex h-7 items-center gap-1 rounded-tr px-1 whitespace-nowrap"
      data-testid="on-frame"
    >
      <Press text={`Keep ${name}`} on={frame.decision === "keep"} onPress={decideHere("keep")}>
        <Grain size={14} className={frame.decision === "keep" ? "" : "opacity-60"} />
      </Press>
      <Press text={`Reject ${name}`} on={frame.decision === "reject"} onPress={decideHere("reject")}>
        <svg width="13" height="13" viewBox="0 0 13 13" aria-hidden="true">
          <path d="M1 12 12 1" stroke="currentColor" strokeWidth={frame.decision === "reject" ? 2.6 : 1.4} />
        </svg>
      </Press>
      <StarButtons
        rating={frame.rating}
        name={name}
        onRate={(rating, at) => rate(rating, at, scopeWith(frame.id), true)}
      />
      <LabelButtons frame={frame} scope={() => scopeWith(frame.id)} />
    </div>
  );
}

/** Every label to be pressed; the one that is set is taken off. scope: what they act on. */
export function LabelButtons({ frame, scope }: { frame: Frame; scope: () => number[] }) {
  const labels = useLabels((s) => s.labels);
  const current = labelId(frame.label);
  return labels.map(({ id, name }) => (
    <Press
      key={id}
      text={`Label ${name} for ${shortName(frame.name)}`}
      on={current === id}
      onPress={(event) => label(current === id ? null : id, event.timeStamp, scope(), true)}
    >
      <span className={`rounded p-0.5 ${current === id ? "bg-white/30" : "opacity-80"}`}>
        <LabelSign named={id} size={13} />
      </span>
    </Press>
  ));
}

interface PressProps {
  text: string;
  on: boolean;
  onPress: (event: { timeStamp: number }) => void;
  children: React.ReactNode;
}

function Press({ text, on, onPress, children }: PressProps) {
  return (
    <button
      type="button"
      tabIndex={-1}
      aria-pressed={on}
      aria-label={text}
      title={text}
      onClick={onPress}
      className="grid size-6 place-items-center"
    >
      {children}
    </button>
  );
}
