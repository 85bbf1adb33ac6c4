/** Others who have the shoot open: where they are, and coming along with one of them. */

import { useEffect } from "react";
import { create } from "zustand";
import { atOnce, type Companion, newKey, unwrap } from "../api/client";
import { onNews, onReconnect } from "../api/events";
import { useSettings } from "../ui/settings";
import { goToScreen } from "./address";
import { activate } from "./moving";
import { useShoot } from "./store";

interface Company {
  others: ReadonlyMap<string, Companion>;
  /** The page that is come along with. */
  followed: string | null;
  /** What is marked here is a proposal. */
  proposes: boolean;
}

export const useCompany = create<Company>(() => ({ others: new Map(), followed: null, proposes: false }));
const { getState: get, setState: set } = useCompany;

const PAGE = newKey();
const AGAIN_MS = 20_000;
/** Somebody who steps fast is told of this often; nobody is told while nobody else is there. */
const SETTLED_MS = 120;

type Where = Companion["screen"];

/** Says where this page is, and shows who else is there, for as long as a screen is open. */
export function useCompanyOn(shootId: number, screen: Where) {
  useEffect(() => {
    const here = () => void say(shootId, screen);
    const stops = [
      onNews((news) => {
        if (news.kind === "company" && news.shoot_id === shootId && news.page !== PAGE) hear(news, here);
      }),
      onReconnect(here),
      useShoot.subscribe(({ active, loaded }, before) => {
        if (loaded && !before.loaded) here();
        if (active !== before.active) moved(here);
      }),
    ];
    const again = setInterval(here, AGAIN_MS);
    const leave = () => void say(shootId, screen, true);
    window.addEventListener("pagehide", leave);
    here();
    return () => {
      for (const stop of stops) stop();
      clearInterval(again);
      window.removeEventListener("pagehide", leave);
    };
  }, [shootId, screen]);
  useEffect(
    () => () => {
      set({ others: new Map(), followed: null });
      void say(shootId, "wall", true);
    },
    [shootId],
  );
}

async function say(shootId: number, screen: Where, gone = false) {
  const { active, loaded, shootId: shown } = useShoot.getState();
  if (!gone && (!loaded || shown !== shootId)) return;
  const name = useSettings.getState().name.trim();
  try {
    const { others, proposes } = await atOnce
      .PUT("/api/shoots/{shoot_id}/here", {
        params: { path: { shoot_id: shootId } },
        headers: name ? { "Winnow-Actor": encodeURIComponent(name) } : {},
        body: { page: PAGE, frame_id: active, screen, gone },
        keepalive: gone,
      })
      .then(unwrap);
    if (!gone) set({ others: new Map(others.map((one) => [one.page, one])), proposes });
  } catch {
    // Company is no reason to trouble anybody: it is said again in a while.
  }
}

function hear({ gone, page, name, frame_id, screen }: Companion & { gone: boolean }, here: () => void) {
  const others = new Map(get().others);
  const isNew = !others.has(page);
  if (gone) others.delete(page);
  else others.set(page, { page, name, frame_id, screen });
  set({ others, followed: gone && get().followed === page ? null : get().followed });
  if (isNew && !gone) here(); // they shall know of this page too
  if (get().followed === page) come();
}

let timer: ReturnType<typeof setTimeout> | undefined;

/** The person went somewhere: by themselves, which ends coming along, or after somebody. */
function moved(here: () => void) {
  const { others, followed } = get();
  const to = followed === null ? undefined : others.get(followed)?.frame_id;
  if (followed !== null && useShoot.getState().active !== to) set({ followed: null });
  if (!others.size) return;
  timer ??= setTimeout(() => {
    timer = undefined;
    here();
  }, SETTLED_MS);
}

/** Comes along with somebody, or stops. */
export function follow(page: string) {
  set({ followed: get().followed === page ? null : page });
  come();
}

/** Goes to where the one who is followed is, if that is in view here. */
function come() {
  const { others, followed } = get();
  const one = followed === null ? undefined : others.get(followed);
  if (!one) return;
  const { active, places } = useShoot.getState();
  if (one.frame_id !== null && one.frame_id !== active && places.has(one.frame_id)) activate(one.frame_id);
  if (one.screen === "wall" || one.screen === "bench") goToScreen(one.screen);
}
