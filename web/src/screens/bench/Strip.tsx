import { memo, type ReactNode } from "react";
import type { Frame } from "../../api/client";
import { Gauge } from "../../panels/evidence/Gauge";
import { Warnings } from "../../panels/evidence/Warnings";
import { LabelTag } from "../../panels/labels/LabelSign";
import { LabelButtons } from "../../panels/marking/OnFrame";
import { useOffer } from "../../panels/marking/useOffer";
import { decide, rate } from "../../shoot/deciding";
import { dragOut } from "../../shoot/dragOut";
import { useEvidence } from "../../shoot/evidence";
import { useGroupUnmarked } from "../../shoot/unmarked";
import { permits } from "../../shoot/walk/permits";
import { useWalk } from "../../shoot/walk/store";
import { EditedSign } from "../../ui/EditedSign";
import { shortName, sigmaShort } from "../../ui/format";
import { DECISION_WORDS, Grain, StarButtons, Stars } from "../../ui/marks";
import { ProposedSign } from "../../ui/ProposedSign";

/** A strip narrower than this, CSS px, shows what was measured before the stars. */
const STARS_FIRST = 230;
/** A strip of this width has room for all labels beside the stars. */
const LABELS_FROM = 260;

/** What is said and measured of a frame, under its picture; its marks are set here with the mouse. */
export const Strip = memo(function Strip(props: { frame: Frame; width: number; active: boolean }) {
  const { frame, width, active } = props;
  const offers = useOffer((s) => s.id === frame.id);
  const { data } = useEvidence(frame);
  const sigma = data?.focus?.subject?.sigma_px;
  const motion = data?.focus?.motion;
  const faces = data?.faces?.filter((face) => face.eyes.some((eye) => eye.state !== "unknown")) ?? [];
  const open = faces.filter((face) => face.eyes.every((eye) => eye.state !== "closed")).length;
  // What the pass does not ask for is no part of the picture either.
  const rates = useWalk(() => permits("rating"));
  const labels = useWalk(() => permits("label")) && offers && width >= LABELS_FROM;
  const decides = useWalk(() => permits("decision"));
  const stars = !rates ? (
    <span className="flex">
      <Stars rating={frame.rating} />
    </span>
  ) : (
    <StarButtons
      rating={frame.rating}
      name={frame.name}
      onRate={(rating, at) => rate(rating, at, [frame.id])}
    />
  );
  return (
    <div
      className="flex h-[26px] items-center gap-2 text-xs whitespace-nowrap text-ink2"
      data-testid={active ? "strip" : undefined}
      data-strip={frame.id}
    >
      <DecisionButton frame={frame} decision="keep" title="Keep" active={active}>
        {frame.decision === "keep" ? <Grain size={15} /> : <Hollow />}
      </DecisionButton>
      <button
        type="button"
        tabIndex={-1}
        draggable
        onDragStart={(event) => dragOut(event, frame, [frame.id])}
        onClick={() => void navigator.clipboard?.writeText(frame.name)}
        title="Drag out as a file; click to copy the name"
        className={`min-h-6 cursor-grab ${frame.decision === "reject" ? "text-ink line-through" : "text-ink"}`}
      >
        {width < 330 ? shortName(frame.name).replace(/^.*?(?=\d{3,}$)/, "") : shortName(frame.name)}
      </button>
      <span data-testid={active ? "decision" : undefined} className={width < 420 ? "sr-only" : ""}>
        {DECISION_WORDS[frame.decision]}
      </span>
      {/* What does not fit as a whole falls into a second line, which is not seen: no figure is cut short. */}
      <div className="flex h-6 min-w-0 flex-1 flex-wrap items-center gap-x-2 overflow-hidden *:h-6 *:items-center">
        <EditedSign frame={frame} named={width >= 420} />
        <ProposedSign frame={frame} />
        {width >= STARS_FIRST && stars}
        <Warnings frame={frame} reachable={active} />
        {motion && motion.kind !== "pan" ? (
          // σ says little of a picture that is blurred one way only.
          <span
            className="flex"
            title={motion.kind === "shake" ? "How far the camera moved" : "How far the subject moved"}
          >
            moved {Math.round(motion.length_px)} px
          </span>
        ) : (
          typeof sigma === "number" && (
            <span className="flex gap-1" title="Blur at the subject, σ px">
              {width >= 400 && <Gauge sigma={sigma} />}
              {sigmaShort(sigma)} px
            </span>
          )
        )}
        {frame.lead && data?.rank === 0 && <Lead group={frame.group} />}
        {labels && (
          <span className="flex" data-testid="strip-labels">
            <LabelButtons frame={frame} scope={() => [frame.id]} />
          </span>
        )}
        {frame.label && !labels && (
          <span className="flex">
            <LabelTag text={frame.label} named={width >= 330} />
          </span>
        )}
        {width < STARS_FIRST && stars}
        {faces.length > 0 && (
          <span className="flex">
            {faces.length > 1
              ? `eyes of ${open} of ${faces.length} open`
              : open
                ? "eyes open"
                : "eyes closed"}
          </span>
        )}
        {frame.note && <span className="flex-1 basis-40 truncate leading-6 text-ink">{frame.note}</span>}
      </div>
      {decides && (
        <DecisionButton frame={frame} decision="reject" title="Reject" active={active}>
          <svg width="13" height="13" viewBox="0 0 13 13" aria-hidden="true">
            <path
              d="M1 12 12 1"
              stroke="currentColor"
              strokeWidth={frame.decision === "reject" ? 2.4 : 1.4}
            />
          </svg>
        </DecisionButton>
      )}
    </div>
  );
});

interface DecisionProps {
  frame: Frame;
  decision: "keep" | "reject";
  title: string;
  active: boolean;
  children: ReactNode;
}

/** Sets a decision; the one that is set, pressed again, is taken back. */
function DecisionButton({ frame, decision, title, active, children }: DecisionProps) {
  const on = frame.decision === decision;
  return (
    <button
      type="button"
      tabIndex={active ? 0 : -1}
      aria-pressed={on}
      aria-label={`${title} ${frame.name}`}
      title={title}
      onClick={(event) => decide(on ? "undecided" : decision, event.timeStamp, [frame.id], true)}
      className={`grid size-6 shrink-0 place-items-center rounded ${on ? "text-ink" : "opacity-60 hover:opacity-100"}`}
    >
      {children}
    </button>
  );
}

/** A frame that is alone leads nothing. */
function Lead({ group }: { group: number }) {
  const alone = useGroupUnmarked(group, 2).length < 2;
  if (alone) return null;
  return (
    <span className="flex" title="Ranked first by the evidence">
      <span className="rounded border border-straw px-1 text-ink">lead</span>
    </span>
  );
}

function Hollow() {
  return (
    <svg width="15" height="15" viewBox="0 0 16 16" aria-hidden="true">
      <path
        d="M8 1c3 0 4.200 3 4.200 6.300S10.600 15 8 15 3.800 10.600 3.800 7.300 5 1 8 1z"
        transform="rotate(24 8 8)"
        fill="none"
        stroke="currentColor"
        strokeWidth="1.2"
      />
    </svg>
  );
}
