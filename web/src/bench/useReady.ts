import { useEffect, useState } from "react";
import type { Shown } from "./arrange";
import { pictures, type Wish } from "./pictures";
import { askEvidence } from "./useEvidence";
import { fitSize } from "./zoom";

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
    askEvidence(next.map(({ frame }) => frame));
    const sized = (shown: Shown[]): Wish[] =>
      shown.map(({ frame, size }) => ({ frame, quality: "fit", size: fitSize(frame, size) }));
    const all = (shown: Shown[], quality: Wish["quality"]): Wish[] =>
      shown.map(({ frame }) => ({ frame, quality }));
    pictures.want([
      ...all(stage, "small"),
      // Where the true pixels are there, their stand-in is not worth the time.
      ...(zoomed ? all(stage, "preview").filter(({ frame }) => !pictures.holds(frame)) : sized(stage)),
      ...(zoomed ? all(stage, "full") : []),
      ...sized(next),
      ...(settled === key && !zoomed ? all(stage, "full") : []),
    ]);
  }, [key, versions, settled, zoomed]);
}
