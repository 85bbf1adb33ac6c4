import { type ReactNode, useEffect, useState } from "react";
import type { Evidence, Frame, SubjectKind } from "../../api/client";
import { keyOf } from "../../keys/inForce";
import { lookClose } from "../../pictures/aimStore";
import { BLURRED, SHARP } from "../../pictures/blurmap";
import { useEvidence, useEvidenceOf } from "../../shoot/evidence";
import { useShoot } from "../../shoot/store";
import { useGroupUnmarked } from "../../shoot/unmarked";
import { Kbd } from "../../ui/controls";
import { count, figure, shortName, sigmaInWords } from "../../ui/format";
import { useRested } from "../../ui/useRested";
import { FaceTable } from "./FaceTable";

/** Faces are cut out once a frame of a group has been looked at this long: whoever steps on waits for no table. */
const RESTED_MS = 300;
/** So many frames of the group stand beside the active one on the scale. */
const BESIDE = 24;

const VERDICTS: Record<string, string> = {
  sharp: "sharp",
  soft: "soft",
  missed: "focus missed",
  moved: "the subject moved",
  shake: "shaken",
  nothing: "nothing to measure",
};

const SUBJECTS: Record<SubjectKind, string> = {
  point: "at your point",
  eyes: "at the eye",
  face: "at the face",
  body: "at the body",
  exif: "where the camera focused",
  area: "at the sharpest place of the area that the camera gives",
  sharpest: "at the sharpest place",
};

/** What was measured on the active frame, beside the others of its group. */
export function Measured({ frame, wide }: { frame: Frame; wide: boolean }) {
  const { data } = useEvidence(frame);
  const group = useGroupUnmarked(frame.group, BESIDE);
  const stayed = useStayed(frame);
  if (!data || data.state === "waiting") {
    return <NotYet />;
  }
  if (data.state === "failed") {
    return <p className="mb-4 text-ink2">{data.problem}</p>;
  }
  return (
    <div className="mb-5 space-y-4" data-testid="measured">
      <Focus data={data} frame={frame} group={group} />
      {stayed && <FaceTable frame={frame} group={group} wide={wide} />}
      {(data.faces?.length ?? 0) > 0 && <Faces data={data} frame={frame} />}
      <Light data={data} />
      <Reasons data={data} frame={frame} alone={group.length < 2} />
    </div>
  );
}

/** Whether somebody has stayed with a frame of this group. */
function useStayed({ id, group }: Frame): boolean {
  const isLooking = useRested(id, RESTED_MS) !== undefined;
  const [stayed, setStayed] = useState<number | null>(null);
  useEffect(() => {
    if (isLooking) setStayed(group);
  }, [isLooking, group]);
  return stayed === group;
}

/** What is to come. */
function NotYet() {
  const progress = useShoot((s) => s.progress);
  return (
    <section className="mb-4 space-y-1 text-ink2">
      <p className="text-ink">Not measured yet.</p>
      <p>
        Focus in pixels, shake, eyes, exposure and the group of this frame are read in the background; what
        you look at comes first.
      </p>
      {progress && progress.state !== "done" && (
        <p>
          {figure(progress.measured)} of {count(progress.listed, "frame")} so far.
        </p>
      )}
    </section>
  );
}

function Heading({ children, beside }: { children: ReactNode; beside?: ReactNode }) {
  return (
    <h2 className="mb-1 flex items-baseline justify-between gap-2 text-xs font-semibold text-ink2">
      {children}
      {beside && <span className="font-normal">{beside}</span>}
    </h2>
  );
}

function Focus({ data, frame, group }: { data: Evidence; frame: Frame; group: Frame[] }) {
  const focus = data.focus;
  if (!focus) return null;
  const subject = focus.subject;
  const said = (about: string) => data.reasons?.find((reason) => reason.about === about)?.text;
  return (
    <section>
      <Heading beside="σ px">Focus</Heading>
      <Scale frame={frame} group={group} />
      <p>
        <b className="font-semibold">{VERDICTS[focus.verdict]}</b>
        {subject?.sigma_px === null && ` ${SUBJECTS[subject.kind]}`}
        {subject && subject.sigma_px !== null && (
          <>
            {": "}
            <Point frame={frame} at={subject}>
              {sigmaInWords(subject.sigma_px)} px {SUBJECTS[subject.kind]}
            </Point>
          </>
        )}
      </p>
      {said("nowhere") && <p className="text-ink2">{said("nowhere")}</p>}
      {focus.instead && (
        <p className="text-ink2">
          {focus.verdict === "missed" ? "sharp elsewhere: " : "sharper elsewhere: "}
          <Point frame={frame} at={focus.instead}>
            {focus.instead.sigma_px !== null && sigmaInWords(focus.instead.sigma_px)} px there
          </Point>
        </p>
      )}
      <p className="text-ink2">
        {said("motion") ?? "no shake"}
        {" · "}
        {Math.round(100 * focus.sharp_share)} % of the frame sharp
      </p>
      <p className="mt-1 flex items-center gap-1.5 text-ink2">
        <Kbd>{keyOf("blur-map")}</Kbd> blur map
      </p>
    </section>
  );
}

/** σ at the subject of all frames of the group on one line; the active one filled. */
function Scale({ frame, group }: { frame: Frame; group: Frame[] }) {
  const answers = useEvidenceOf(group);
  const place = (sigma: number) =>
    (100 * Math.log(Math.min(8, Math.max(0.4, sigma)) / 0.4)) / Math.log(8 / 0.4);
  const found = group.flatMap((f, index) => {
    const sigma = answers[index]?.focus?.subject?.sigma_px;
    return typeof sigma === "number" ? [{ frame: f, sigma }] : [];
  });
  const words = found.map((d) => `${shortName(d.frame.name)} ${sigmaInWords(d.sigma)}`).join(", ");
  return (
    <div
      role="img"
      aria-label={`σ at the subject in this group, px: ${words}`}
      className="relative mt-1 mb-1.5 h-7"
    >
      <span className="absolute inset-x-0 top-2 h-px bg-line" />
      {[0.5, 1, SHARP, BLURRED].map((tick) => (
        <span
          key={tick}
          className="absolute top-3.5 -translate-x-1/2 text-[11px] text-ink3"
          style={{ left: `${place(tick)}%` }}
        >
          {tick}
        </span>
      ))}
      {found.map((dot) => {
        const active = dot.frame.id === frame.id;
        return (
          <span
            key={dot.frame.id}
            title={`${shortName(dot.frame.name)}: ${sigmaInWords(dot.sigma)} px`}
            className={`absolute top-2 -translate-x-1/2 -translate-y-1/2 rounded-full ${
              active ? "z-10 size-3 bg-straw" : "size-2 bg-ink3"
            }`}
            style={{ left: `${place(dot.sigma)}%` }}
          />
        );
      })}
    </div>
  );
}

function Faces({ data, frame }: { data: Evidence; frame: Frame }) {
  return (
    <section>
      <Heading beside={data.faces?.length}>Faces of this frame</Heading>
      <ul className="space-y-0.5">
        {[...(data.faces ?? [])]
          .sort((a, b) => a.person - b.person)
          .map((face) => {
            const [right, left] = face.eyes;
            const worst = ["closed", "narrowed", "open", "unknown"].find((state) =>
              face.eyes.some((eye) => eye.state === state),
            );
            const words = {
              closed: "closed or lowered",
              narrowed: "narrowed",
              open: "open",
              unknown: "eyes cannot be told",
            }[worst ?? "unknown"];
            return (
              <li key={`${face.person} ${face.box[0]}`} className="flex justify-between gap-2">
                <Point frame={frame} at={right.state === worst ? right : left}>
                  {face.person + 1}: {words}
                  {!face.facing && ", looks away"}
                </Point>
                <span className="text-ink2">
                  {face.sigma_px === null ? "–" : `${sigmaInWords(face.sigma_px)} px`}
                </span>
              </li>
            );
          })}
      </ul>
    </section>
  );
}

function Light({ data }: { data: Evidence }) {
  const light = data.exposure;
  if (!light) return null;
  const top = Math.max(...light.histogram.slice(1, -1), 0.001);
  const points = light.histogram.map(
    (share, bin) => `${(100 * bin) / (light.histogram.length - 1)},${40 - 40 * Math.min(1, share / top)}`,
  );
  const stops = light.group_stops;
  return (
    <section>
      <Heading
        beside={
          stops === null
            ? null
            : `${stops < -0.05 ? "−" : stops >= 0.05 ? "+" : ""}${Math.abs(stops).toFixed(1)} stops to the group`
        }
      >
        Light
      </Heading>
      <svg viewBox="0 0 100 40" preserveAspectRatio="none" className="h-11 w-full" role="img">
        <title>Histogram</title>
        <polygon points={`0,40 ${points.join(" ")} 100,40`} fill="var(--color-ink3)" />
      </svg>
      <p className="text-ink2">
        burnt {(100 * light.clipped_high).toFixed(1)} % · blocked {(100 * light.clipped_low).toFixed(1)} %
      </p>
    </section>
  );
}

function Reasons({ data, frame, alone }: { data: Evidence; frame: Frame; alone: boolean }) {
  if (alone || !data.reasons?.length) return null;
  return (
    <section className={`border-l-2 pl-2.5 ${data.lead ? "border-straw" : "border-line"}`}>
      <Heading>{data.lead ? "Why it leads its group" : `Place ${(data.rank ?? 0) + 1} in its group`}</Heading>
      <ul>
        {data.reasons.map((reason) => (
          <li key={reason.text} className={reason.good ? "text-ink2" : "text-ink"}>
            {reason.x !== null && reason.y !== null ? (
              <Point frame={frame} at={{ x: reason.x, y: reason.y }}>
                {reason.text}
              </Point>
            ) : (
              reason.text
            )}
          </li>
        ))}
      </ul>
    </section>
  );
}

interface PointProps {
  frame: Frame;
  at: { x: number; y: number };
  children: ReactNode;
}

/** Words that lead to the place in the picture that they were read from. */
function Point({ frame, at, children }: PointProps) {
  return (
    <button
      type="button"
      className="min-h-6 text-left underline decoration-dotted underline-offset-2"
      onClick={(event) => lookClose(frame.id, { x: at.x, y: at.y }, event.timeStamp)}
    >
      {children}
    </button>
  );
}
