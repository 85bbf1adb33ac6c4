import { useEffect, useState } from "react";
import { pictures, type Wish } from "../../pictures/cache";
import { fitSize } from "../../pictures/zoom";
import { askEvidence } from "../../shoot/evidence";
import { afterPaint } from "../../ui/timing";
import type { Shown } from "./arrange";

/** A group that is looked at this long gets its true pixels decoded, in case somebody zooms. */
const SETTLED_MS = 900;

/** Makes pictures ready: those on the stage, then the ones of the steps that are likely next. */
export function useReady(stage: Shown[], next: Shown[], zoomed: boolean, key: string) {
  const [settled, setSettled] = useState("");
  useEffect(() => {
    const timer = setTimeout(() => setSettled(key), SETTLED_MS);
    return () => clearTimeout(timer);
  }, [key]);
  const versions = [...stage, ...next].map(({ frame }) => `${frame.version}${frame.stage}`).join();
  // biome-ignore lint/correctness/useExhaustiveDependencies: the frames and their versions are in the key
  useEffect(() => {
    const sized = (shown: Shown[]): Wish[] =>
      shown.map(({ frame, size }) => ({ frame, quality: "fit", size: fitSize(frame, size) }));
    const all = (shown: Shown[], quality: Wish["quality"]): Wish[] =>
      shown.map(({ frame }) => ({ frame, quality }));
    const firsts = (shown: Shown[]): Wish[] =>
      shown
        .filter(({ frame }) => frame.stage !== "preview")
        .map(({ frame, size }) => ({ frame, quality: "first", size: fitSize(frame, size) }));
    const wishes = [
      ...all(stage, "small"),
      ...firsts(stage),
      ...firsts(next),
      // Where the true pixels are there, their stand-in is not worth the time.
      ...(zoomed ? all(stage, "preview").filter(({ frame }) => !pictures.holds(frame)) : sized(stage)),
      ...(zoomed ? all(stage, "full") : []),
      ...sized(next),
      ...(settled === key && !zoomed ? all(stage, "full") : []),
    ];
    const prepare = () => {
      askEvidence(next.map(({ frame }) => frame));
      pictures.want(wishes);
    };
    // What is ready is shown first; the rest is made ready after that.
    const ready = stage.every(({ frame, size }) =>
      zoomed ? pictures.holds(frame) : pictures.best(frame, fitSize(frame, size), "fit")?.exact,
    );
    if (ready) return afterPaint(prepare);
    prepare();
  }, [key, versions, settled, zoomed]);
}
