/** Times from a key or click to the paint that shows its effect, as `performance.measure` entries. */

export type Measure =
  | "winnow:show-frame"
  | "winnow:mark"
  | "winnow:show-group"
  | "winnow:zoom-preview"
  | "winnow:zoom-pixels";

const started = new Map<Measure, { start: number; subject: number }>();

/** Notes when the person asked for something about `subject` (a frame id). */
export function asked(measure: Measure, start: number, subject: number) {
  started.set(measure, { start, subject });
}

/** The change for `subject` is in the document: measures to the paint after it. */
export function shown(measure: Measure, subject: number) {
  const entry = started.get(measure);
  if (!entry || entry.subject !== subject) return;
  started.delete(measure);
  afterPaint(() => performance.measure(measure, { start: entry.start, end: performance.now() }));
}

/** Calls back once what is in the document now has been painted. Returns what calls that off. */
export function afterPaint(then: () => void): () => void {
  let wanted = true;
  requestAnimationFrame(() => {
    const channel = new MessageChannel();
    channel.port1.onmessage = () => {
      if (wanted) then();
    };
    channel.port2.postMessage(null);
  });
  return () => {
    wanted = false;
  };
}
