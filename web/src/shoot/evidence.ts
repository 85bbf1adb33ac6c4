/** What was measured on frames: asked for together, kept for the page, filled in live while it is measured. */

import { useEffect } from "react";
import { create } from "zustand";
import { useShallow } from "zustand/react/shallow";
import { api, type Evidence, type Frame, unwrap } from "../api/client";
import { onReconnect } from "../api/events";

/** While a frame waits to be measured it is asked for again and again. */
const ASK_AGAIN_MS = 1500;
/** Questions of one moment go out as one. */
const TOGETHER_MS = 15;
/** Who steps fast asks no more often than this: pictures come first. */
const APART_MS = 150;
const MOST = 200;

interface Known {
  key: string;
  evidence: Evidence;
}

const useKnown = create<{ known: Map<number, Known> }>(() => ({ known: new Map() }));
const wanted = new Map<number, Frame>();
const watched = new Map<number, number>();
let timer: ReturnType<typeof setTimeout> | null = null;
let asked = 0;

/** What the group says of a frame shows in these; when they change, so may the reasons. */
function keyOf(frame: Frame): string {
  return [frame.version, frame.judged, frame.group, frame.lead, frame.warnings, frame.faces].join(" ");
}

/** Asks for the evidence of frames, unless it is known. */
export function askEvidence(frames: Frame[], again = false) {
  const { known } = useKnown.getState();
  for (const frame of frames)
    if (again || known.get(frame.id)?.key !== keyOf(frame)) wanted.set(frame.id, frame);
  if (wanted.size && timer === null) schedule();
}

function schedule() {
  timer = setTimeout(() => void flush(), Math.max(TOGETHER_MS, asked + APART_MS - performance.now()));
}

async function flush() {
  timer = null;
  asked = performance.now();
  const frames = [...wanted.values()].slice(0, MOST);
  for (const frame of frames) wanted.delete(frame.id);
  if (wanted.size) schedule();
  try {
    const ids = frames.map((frame) => frame.id);
    const answer = unwrap(await api.GET("/api/evidence", { params: { query: { frame: ids } } }));
    const known = new Map(useKnown.getState().known);
    for (const frame of frames) {
      const evidence = answer[frame.id] as Evidence | undefined;
      if (evidence) known.set(frame.id, { key: keyOf(frame), evidence });
    }
    useKnown.setState({ known });
    const waiting = frames.filter((frame) => answer[frame.id]?.state === "waiting");
    if (waiting.length) setTimeout(() => askEvidence(waiting.filter(isWatched), true), ASK_AGAIN_MS);
  } catch {
    for (const frame of frames) wanted.set(frame.id, frame);
  }
}

onReconnect(() => askEvidence([]));

function isWatched(frame: Frame): boolean {
  return (watched.get(frame.id) ?? 0) > 0;
}

function useWatch(frames: Frame[]) {
  const key = frames.map((frame) => `${frame.id} ${keyOf(frame)}`).join();
  // biome-ignore lint/correctness/useExhaustiveDependencies: the frames are in the key
  useEffect(() => {
    for (const { id } of frames) watched.set(id, (watched.get(id) ?? 0) + 1);
    askEvidence(frames);
    return () => {
      for (const { id } of frames) watched.set(id, (watched.get(id) ?? 1) - 1);
    };
  }, [key]);
}

/** What is known by now of what was measured on a frame. */
export function evidenceOf(frame: number): Evidence | undefined {
  return useKnown.getState().known.get(frame)?.evidence;
}

/** What was measured on a frame. */
export function useEvidence(frame: Frame | undefined): { data: Evidence | undefined } {
  useWatch(frame ? [frame] : []);
  return { data: useKnown((s) => (frame ? s.known.get(frame.id)?.evidence : undefined)) };
}

/** What was measured on several frames, in their order; undefined while it is on its way. */
export function useEvidenceOf(frames: Frame[]): (Evidence | undefined)[] {
  useWatch(frames);
  return useKnown(useShallow((s) => frames.map((frame) => s.known.get(frame.id)?.evidence)));
}
