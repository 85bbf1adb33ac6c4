/** Numbers and times as people read them. */

// Made once: to make one takes longer than all that a step draws of text.
const DAY = new Intl.DateTimeFormat("en-GB", { day: "numeric", month: "short", year: "numeric" });
const NUMBER = new Intl.NumberFormat("en");

/** 50,000 */
export const figure = (n = 0) => NUMBER.format(n);

export function bytes(count: number): string {
  if (count < 1e6) return `${Math.max(1, Math.round(count / 1e3))} kB`;
  if (count < 1e9) return `${(count / 1e6).toFixed(1)} MB`;
  return `${(count / 1e9).toFixed(1)} GB`;
}

export function shutter(seconds: number): string {
  if (seconds >= 0.4) return `${Number(seconds.toFixed(1))} s`;
  return `1/${Math.round(1 / seconds)} s`;
}

export function duration(seconds: number): string {
  if (seconds < 60) return `${Math.max(1, Math.round(seconds))} s`;
  if (seconds < 3600) return `${Math.round(seconds / 60)} min`;
  return `${Math.floor(seconds / 3600)} h ${Math.round((seconds % 3600) / 60)} min`;
}

/** Hours and minutes as the camera's clock showed them. */
export function clock(captured: string | null): string {
  return captured ? captured.slice(11, 16) : "no time";
}

/** The day as the camera's calendar showed it. */
export function day(captured: string | null): string {
  if (!captured) return "no date";
  return DAY.format(new Date(`${captured.slice(0, 10)}T12:00:00`));
}

/** The day of a moment (ISO 8601, with its offset), where the person is. */
export function dayOf(at: string): string {
  return DAY.format(new Date(at));
}

/** Hours and minutes of a moment, where the person is. */
export function timeOf(at: string | number): string {
  return new Date(at).toTimeString().slice(0, 5);
}

/** A moment, where the person is: "17 Oct 2026, 20:30". */
export function moment(at: string): string {
  return `${dayOf(at)}, ${timeOf(at)}`;
}

/** The day without its year. */
export function shortDay(captured: string): string {
  return withoutYear(day(captured));
}

/** A moment without its year: "17 Oct 20:30". */
export function shortMoment(at: string): string {
  return `${withoutYear(dayOf(at))} ${timeOf(at)}`;
}

const withoutYear = (text: string) => text.replace(/ \d+$/, "");

/** The part of a name that tells frames apart: no folder, no extension. */
export function shortName(name: string): string {
  const file = name.slice(name.lastIndexOf("/") + 1);
  return file.includes(".") ? file.slice(0, file.lastIndexOf(".")) : file;
}

/** That the content of a frame lies in the shoot more than once. */
export function copiesInWords(frame: { copies: number }): string {
  if (!frame.copies) return "";
  return `Its content is in the shoot ${frame.copies === 1 ? "twice" : `${frame.copies + 1} times`}.`;
}

export function count(n: number, one: string, many = `${one}s`): string {
  return `${figure(n)} ${n === 1 ? one : many}`;
}

/** On photographs σ beyond this is too far off to be given as a number, px. */
const MOST_TOLD = 6;

/** σ, px, without the unit. */
export function sigmaInWords(sigma: number): string {
  return sigma <= MOST_TOLD ? sigma.toFixed(1) : `more than ${MOST_TOLD}`;
}

/** The same where there is no room for words. */
export function sigmaShort(sigma: number): string {
  return sigma <= MOST_TOLD ? sigma.toFixed(1) : `> ${MOST_TOLD}`;
}
