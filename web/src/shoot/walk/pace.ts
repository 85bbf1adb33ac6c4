/** How fast somebody goes through frames. */

/** The pace is that of the last so many ms. */
const OVER_MS = 120_000;
/** A longer pause is none of the work. */
const PAUSE_MS = 60_000;

/** When frames were done with, ms; and when the person came back last. */
export class Pace {
  private done: [number, number][] = [];
  private last: number;
  private spent = 0;

  constructor(private since: number) {
    this.last = since;
  }

  /** Something was done, with so many more frames done. */
  note(now: number, frames: number) {
    this.spent += Math.min(PAUSE_MS, now - this.last);
    this.last = now;
    if (frames) this.done.push([now, frames]);
    this.done = this.done.filter(([at]) => now - at < OVER_MS);
  }

  /** Frames a minute over the last two minutes; null: too early to say. */
  perMinute(now: number): number | null {
    const span = Math.min(OVER_MS, now - this.since);
    const frames = this.done.reduce((sum, [at, count]) => (now - at < OVER_MS ? sum + count : sum), 0);
    return span < 3000 || !frames ? null : (frames * 60_000) / span;
  }

  /** Seconds of work since this was called last. */
  takeSeconds(): number {
    const seconds = this.spent / 1000;
    this.spent = 0;
    return seconds;
  }
}
