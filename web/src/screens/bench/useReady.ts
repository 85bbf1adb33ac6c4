import { useEffect, useRef, useState } from "react";
import type { Frame } from "../../api/client";
import { type Aim, aimed, type Found, WHOLE } from "../../pictures/aim";
import { useAim } from "../../pictures/aimStore";
import { pictures, SPACE, type Wish } from "../../pictures/cache";
import { partsWithin } from "../../pictures/parts";
import { fitSize, type Part, type Size, sizeOf } from "../../pictures/zoom";
import { askEvidence, evidenceOf } from "../../shoot/evidence";
import { useShoot } from "../../shoot/store";
import { afterPaint } from "../../ui/timing";
import type { Shown } from "./arrange";

/** A group that is looked at this long gets its true pixels decoded, in case somebody zooms. */
const SETTLED_MS = 900;
/** Who goes on sooner than this sees the camera's previews where they are there: ours take the processor longer, and
 * would keep it from showing those. */
const RESTED_MS = 140;

/** Of what is likely next, so many pictures are reduced to the size of the stage ahead of time. */
const REDUCED_AHEAD = 10;

export interface Next {
  /** Frames that are likely next; of a group, one of it. */
  ids: number[];
  shown: () => Shown[];
}

/** Makes pictures ready: those on the stage, then the ones of the steps that are likely next. */
export function useReady(stage: Shown[], ahead: Next, zoomed: boolean, key: string) {
  const settled = useStays(key, SETTLED_MS);
  const rested = useStays(key, RESTED_MS);
  const parts = useParts(stage, zoomed);
  const partsKey = JSON.stringify(parts);
  const versions = useShoot(({ frames }) =>
    [...stage.map(({ frame }) => frame.id), ...ahead.ids]
      .map((id) => `${frames.get(id)?.version}${frames.get(id)?.stage}`)
      .join(),
  );
  // biome-ignore lint/correctness/useExhaustiveDependencies: the frames and their versions are in the key
  useEffect(() => {
    const sized = (shown: Shown[], withoutFirst = false): Wish[] =>
      shown.map(({ frame, size }) => ({
        frame,
        quality: "fit",
        size: fitSize(frame, size),
        withoutFirst: withoutFirst || !rested,
      }));
    const all = (shown: Shown[], quality: Wish["quality"]): Wish[] =>
      shown.map(({ frame }) => ({ frame, quality }));
    const trueOnes = stage.map(({ frame }, at): Wish => ({ frame, quality: "full", part: parts[at] }));
    const firsts = (shown: Shown[], now = false): Wish[] =>
      shown
        .filter(({ frame }) => frame.stage !== "preview")
        .map(({ frame }) => ({ frame, quality: "first", now }));
    const wishes = (next: Shown[]) => [
      ...firsts(stage, stage.length === 1),
      ...all(stage.filter(isBare), "small"),
      ...firsts(next),
      // Where the true pixels are there, their stand-in is not worth the time.
      ...(zoomed
        ? all(stage, "preview").filter(({ frame }, at) => parts[at] || !pictures.holds(frame))
        : sized(stage)),
      ...(zoomed ? trueOnes : []),
      ...sized(next.slice(0, REDUCED_AHEAD)),
      ...sized(
        next.slice(REDUCED_AHEAD).filter(({ frame }) => frame.stage !== "preview"),
        true,
      ),
      ...(settled && !zoomed ? trueOnes : []),
    ];
    const prepare = () => {
      const next = ahead.shown();
      if (rested) askEvidence(next.map(({ frame }) => frame));
      pictures.want(wishes(next));
    };
    // What is ready is shown first; the rest is made ready after that.
    const ready = stage.every(({ frame, size }) => {
      if (zoomed) return pictures.holds(frame);
      const best = pictures.best(frame, fitSize(frame, size), "fit");
      return best?.exact || best?.quality === "first";
    });
    if (ready) return afterPaint(prepare);
    prepare();
  }, [key, versions, rested, settled, zoomed, partsKey]);
}

/** Whether there is nothing yet that is better than a thumbnail. */
function isBare({ frame, size }: Shown): boolean {
  const quality = pictures.best(frame, fitSize(frame, size), "full")?.quality;
  return quality === undefined || quality === "small";
}

/** The parts of the pictures on the stage that are decoded at full size: all of each, if there is memory for that. */
function useParts(stage: Shown[], zoomed: boolean): (Part | undefined)[] {
  const had = useRef(new Map<number, Part>());
  const active = useShoot((s) => s.active);
  const select = ({
    aim,
    found,
    ahead,
  }: {
    aim: Aim;
    found: Map<number, Found>;
    ahead: Map<number, Found>;
  }) => {
    const lookedIn = (zoomed ? aim.frame : active) ?? -1;
    const first = stage.find(({ frame }) => frame.id === lookedIn)?.frame;
    // Before anything is zoomed: where the first zoom would look.
    const now =
      zoomed || !first ? aim : { ...WHOLE, frame: first.id, point: subjectOf(first, sizeOf(first)) };
    return JSON.stringify(
      partsWithin(
        SPACE.full,
        stage.map(({ frame }) => {
          const size = sizeOf(frame);
          // What is found for a zoom to the subject is what was found ahead of it.
          const places = zoomed && (found.size || !aim.subject) ? found : ahead;
          const { x, y } = aimed(now, frame.id, size, sizeOf(first ?? frame), places.get(frame.id));
          const at = { x: x * size.width, y: y * size.height };
          return { size, at, had: had.current.get(frame.id) };
        }),
      ),
      (_, value) => value ?? null,
    );
  };
  const found = useAim(select);
  const parts = (JSON.parse(found) as (Part | null)[]).map((part) => part ?? undefined);
  useEffect(() => {
    had.current = new Map(stage.flatMap(({ frame }, at) => (parts[at] ? [[frame.id, parts[at]]] : [])));
  });
  return parts;
}

/** What is looked at first when somebody zooms. */
function subjectOf({ id }: Frame, { width, height }: Size) {
  return evidenceOf(id)?.focus?.subject ?? { x: width / 2, y: height / 2 };
}

/** Whether a key has been the same for a while. */
function useStays(key: string, ms: number): boolean {
  const [stayed, setStayed] = useState("");
  useEffect(() => {
    const timer = setTimeout(() => setStayed(key), ms);
    return () => clearTimeout(timer);
  }, [key, ms]);
  return stayed === key;
}
