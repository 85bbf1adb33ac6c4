import { useEffect } from "react";
import type { Progress } from "./client";

export type News =
  | ({ kind: "progress"; revision: number } & Progress)
  | { kind: "frames"; shoot_id: number; revision: number }
  | { kind: "plan"; plan_id: number; shoot_id: number; done: number; total: number }
  | { kind: "plan-ended"; plan_id: number; shoot_id: number; state: string; revision: number };

type Listener = (news: News) => void;

const listeners = new Set<Listener>();
const reconnected = new Set<() => void>();
let source: EventSource | null = null;

function connect() {
  let opened = false;
  source = new EventSource("/api/events");
  source.onmessage = (event) => {
    const news = JSON.parse(event.data) as News;
    for (const listener of listeners) listener(news);
  };
  // News missed while the line was down are made up for by asking anew.
  source.onopen = () => {
    if (opened) for (const listener of reconnected) listener();
    opened = true;
  };
}

/** Calls back with news from the server, over one connection for the page. */
export function useNews(listener: Listener, onReconnect?: () => void) {
  useEffect(() => {
    if (!source) connect();
    listeners.add(listener);
    if (onReconnect) reconnected.add(onReconnect);
    return () => {
      listeners.delete(listener);
      if (onReconnect) reconnected.delete(onReconnect);
    };
  }, [listener, onReconnect]);
}
