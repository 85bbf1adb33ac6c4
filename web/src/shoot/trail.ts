/** What was done on this page, as far as it was seen: an undo of it is shown at once. */

import type { MarkValues } from "./waiting";

export type Seen = [number, MarkValues][];

interface Step {
  key: string;
  before: Seen;
  after: Seen;
  /** Known once the server has journalled it. */
  batch: number | null;
}

const KEPT = 300;

let done: Step[] = [];
let undone: Step[] = [];

export function forgetTrail() {
  done = [];
  undone = [];
}

/** Notes an act and what frames looked like before and after it. */
export function noteStep(key: string, before: Seen, after: Seen) {
  done = [...done.slice(1 - KEPT), { key, before, after, batch: null }];
  undone = [];
}

/** An act was journalled as a batch; null: it changed nothing, or was refused. */
export function noteBatch(key: string, batch: number | null) {
  const journalled = (steps: Step[]) =>
    steps.flatMap((step) => (step.key !== key ? [step] : batch ? [{ ...step, batch }] : []));
  done = journalled(done);
  undone = journalled(undone);
}

/** One step back or forward: what it shows, if it is known. `batch`: the action that is meant; null: the last one done
 * on this page. */
export function stepOver(way: "undo" | "redo", batch: number | null): Seen {
  const step = (way === "undo" ? done : undone).at(-1);
  if (!step || (batch !== null && step.batch !== batch)) return [];
  if (way === "undo") {
    done = done.slice(0, -1);
    undone = [...undone, step];
    return step.before;
  }
  undone = undone.slice(0, -1);
  done = [...done, step];
  return step.after;
}
