/** Sends what waits, one after another in the order of the keys, until the server has it. */

import { ApiError, api, isNobodyThere } from "../../api/client";
import { noteLost, whenFound } from "../../api/connection";
import { inWords } from "../../api/words";
import { type Entry, informed, isKept, meansTheLast, unmeant } from "./entry";
import { afterWhatWaits } from "./order";
import { isShared, readOutbox, report, settle, useOutbox, waits } from "./outbox";
import { named, type Sent, sendNext } from "./requests";

const FIRST_PAUSE_MS = 300;
const LONGEST_PAUSE_MS = 10_000;
/** How often one act is tried at a server that is there and never answers it, or fails at it. */
const TRIES_UNANSWERED = 3;
const TRIES_FAILED = 6;
const NO_ACCESS = 401;
const SIGN_OF_LIFE_MS = 4000;
/** A display frame, and a little. */
const AFTER_DRAWING_MS = 20;

/** Reads what was left from before, and from now on sends whatever is put in. */
export async function startSending() {
  api.use(afterWhatWaits);
  useOutbox.subscribe(({ entries }) => entries.some(waits) && !sending && soon(() => void sendAll()));
  await readOutbox();
}

/** A mark is drawn first and sent then; a page that is not drawn sends at once. */
function soon(send: () => void) {
  if (typeof document === "undefined" || document.hidden) send();
  else setTimeout(send, AFTER_DRAWING_MS);
}

let sending = false;
let pause = FIRST_PAUSE_MS;
const tries = new Map<string, number>();

async function sendAll() {
  if (sending) return;
  sending = true;
  try {
    while (useOutbox.getState().entries.some(waits)) {
      await whenFound();
      if ((await inTurn(sendFirst)) === "failed") await takeABreak();
    }
  } finally {
    sending = false;
  }
}

/** One window at a time: two would overtake each other. */
function inTurn<T>(act: () => Promise<T>): Promise<T> {
  if (!isShared() || !navigator.locks) return act();
  return navigator.locks.request("winnow-outbox", act) as Promise<T>;
}

async function takeABreak() {
  await new Promise((resolve) => setTimeout(resolve, pause));
  pause = Math.min(LONGEST_PAUSE_MS, 2 * pause);
}

async function sendFirst(): Promise<"went" | "failed"> {
  let entry = await firstInLine();
  if (!entry) return "went";
  let sent: Sent | null;
  try {
    const meant = await named(entry);
    if (meant !== entry) await settle(entry, meant);
    entry = meant;
    sent = await sendNext(entry);
  } catch (problem) {
    return (await refusedBy(entry, problem)) ? "went" : "failed";
  }
  pause = FIRST_PAUSE_MS;
  tries.delete(entry.key);
  const answer = sent?.answer ?? null;
  const rest = sent?.rest ?? null;
  report({ entry, answer, seenBy: sent?.seenBy, partial: rest !== null });
  await settle(entry, rest, (next) => (answer && !rest ? informed(next, answer) : undefined));
  return "went";
}

async function firstInLine(): Promise<Entry | undefined> {
  const first = () => useOutbox.getState().entries.find(waits);
  const entry = first();
  if (!entry || !meansTheLast(entry)) return entry;
  // If another window has sent it, "the last action" would be another one now.
  await readOutbox();
  return first();
}

/** Whether the server answers anything at all: one that is stopped or overloaded refuses nothing. */
async function isAnybodyThere(): Promise<boolean> {
  try {
    return (await api.GET("/api/settings", { signal: AbortSignal.timeout(SIGN_OF_LIFE_MS) })).response.ok;
  } catch {
    return false;
  }
}

/** Takes an act that will not be done out of the line. Returns whether it is such a one; others are tried again. */
async function refusedBy(entry: Entry, problem: unknown): Promise<boolean> {
  const status = problem instanceof ApiError ? problem.status : 0;
  const isHung = status === 0 && !isNobodyThere(problem);
  if (isNobodyThere(problem) || status === NO_ACCESS || (isHung && !(await isAnybodyThere()))) {
    noteLost();
    return false;
  }
  const count = (tries.get(entry.key) ?? 0) + 1;
  tries.set(entry.key, count);
  const mayPass = isHung || status >= 500;
  if (mayPass && count < (isHung ? TRIES_UNANSWERED : TRIES_FAILED)) return false;
  tries.delete(entry.key);
  const words = inWords(problem);
  report({ entry, answer: null, problem: words });
  await settle(entry, isKept(entry.act) ? { ...entry, refused: words } : null, unmeant);
  return true;
}
