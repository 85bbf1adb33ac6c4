/** News from the server, over one stream for the page. A stream that breaks off comes back by itself. */

import { useEffect } from "react";
import type { Companion, Progress } from "./client";
import { noteFound, noteLost, useConnection } from "./connection";
import { LIBRARY } from "./library";

export type News =
  | ({ kind: "progress"; revision: number } & Progress)
  | ({ kind: "company"; shoot_id: number; gone: boolean } & Companion)
  | { kind: "frames"; shoot_id: number; revision: number }
  | { kind: "labels"; shoot_id?: undefined; revision?: undefined }
  | { kind: "plan"; plan_id: number; shoot_id: number; done: number; total: number }
  | { kind: "pass-ended"; shoot_id: number; walk_id: number; name: string }
  | { kind: "plan-ended"; plan_id: number; shoot_id: number; state: string; revision: number };

type Hello = { kind: "hello"; library: string };
type Listener = (news: News) => void;

const FIRST_PAUSE_MS = 400;
const LONGEST_PAUSE_MS = 5000;

const listeners = new Set<Listener>();
const reconnected = new Set<() => void>();
let source: EventSource | null = null;
let pause = FIRST_PAUSE_MS;
let greeted = false;

/** Opens the stream, and again and again after it broke off. */
export function followNews() {
  if (source) return;
  source = new EventSource("/api/events");
  source.onmessage = (event) => {
    const news = JSON.parse(event.data) as News | Hello;
    if (news.kind === "hello") welcome(news);
    else for (const listener of listeners) listener(news);
  };
  source.onerror = () => comeBack();
}

function welcome({ library }: Hello) {
  // Another data folder is served at this address now: nothing on this page is of it.
  if (library !== LIBRARY) return window.location.reload();
  pause = FIRST_PAUSE_MS;
  noteFound();
  // News missed while the line was down are made up for by asking anew.
  if (greeted) for (const listener of reconnected) listener();
  greeted = true;
}

function comeBack() {
  if (!source) return;
  source.close();
  source = null;
  noteLost();
  setTimeout(followNews, pause);
  pause = Math.min(LONGEST_PAUSE_MS, 2 * pause);
}

// A request that found nobody: whether the stream still stands is found out by opening it anew.
useConnection.subscribe(({ lost }, before) => lost && !before.lost && comeBack());

/** Calls back when the server is there again after it was not. Returns what ends that. */
export function onReconnect(listener: () => void): () => void {
  reconnected.add(listener);
  return () => {
    reconnected.delete(listener);
  };
}

/** Calls back with news from the server. Returns what ends that. */
export function onNews(listener: Listener): () => void {
  listeners.add(listener);
  return () => {
    listeners.delete(listener);
  };
}

/** The same, for as long as a component is on screen. */
export function useNews(listener: Listener) {
  useEffect(() => onNews(listener), [listener]);
}
