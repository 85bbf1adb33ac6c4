/** Where one is, kept in the address: a reload, a second tab, Back and Forward lead there. Steps from frame to frame only
 * rewrite it; another filter or another screen is a step that Back takes back. */

import { useEffect } from "react";
import { navigate } from "wouter/use-browser-location";
import { type Layout, useStage } from "../screens/bench/stageStore";
import { setLayout } from "../screens/bench/staging";
import { hereOf, searchOf } from "../shoot/address";
import { activate } from "../shoot/moving";
import { useOpenShoot } from "../shoot/opening";
import { filterLeft, setPlace } from "../shoot/places";
import { useShoot } from "../shoot/store";
import { refreshView } from "../shoot/view";
import { useWalk } from "../shoot/walk/store";
import { leaveWalk, resumeWalk } from "../shoot/walk/walking";

/** Browsers refuse pages that rewrite their address many times a second. */
const RESTED_MS = 250;

/** Opens a shoot where the address says, and keeps the address up to date from then on. */
export function useHere(shootId: number, screen: string) {
  useOpenShoot(shootId, arrive);
  // biome-ignore lint/correctness/useExhaustiveDependencies: another screen has an address of its own
  useEffect(() => {
    let timer: ReturnType<typeof setTimeout> | undefined;
    const later = () => {
      clearTimeout(timer);
      timer = setTimeout(() => write(), RESTED_MS);
    };
    const ends = [
      useShoot.subscribe((now, before) => {
        if (now.filter.show !== before.filter.show || now.filterOn !== before.filterOn) {
          // Back must lead to the frame one was at, not to one of a moment before.
          if (now.shootId === before.shootId && !going) write(before);
          // What stood in the address is only written as it should be.
          const isSame = Boolean(before.filter.show) && before.filter.parts.length === 0;
          write(now, isSame);
        } else if (now.active !== before.active) later();
      }),
      useStage.subscribe((now, before) => now.layout !== before.layout && later()),
      useWalk.subscribe((now, before) => now.walk !== before.walk && later()),
    ];
    later();
    window.addEventListener("popstate", comeBack);
    window.addEventListener("beforeunload", beginToLeave);
    window.addEventListener("pagehide", leave);
    return () => {
      clearTimeout(timer);
      for (const end of ends) end();
      window.removeEventListener("popstate", comeBack);
      window.removeEventListener("beforeunload", beginToLeave);
      window.removeEventListener("pagehide", leave);
    };
  }, [shootId, screen]);
}

/** Where this tab was left, by the addresses that it had then: a reload comes back under one of these. */
const LEFT = "winnow.left";

/** The addresses that a reload may ask for: the one that stands, and those of a moment before, as the browser hears of
 * a new one a little later than the page. Until the answer is here this page goes on, and may rewrite its own. */
let asked: string[] = [];

/** The addresses that stood before, the last one first. */
let earlier: string[] = [];
const EARLIER = 4;

function beginToLeave() {
  asked = [window.location.href, ...earlier];
}

function leave() {
  const addresses = [...asked, window.location.href];
  write();
  sessionStorage.setItem(LEFT, JSON.stringify([addresses, window.location.search]));
}

/** What of the address was not written in time, where this page came back to where it was left: told once. */
let missed = ((): string | null => {
  const [entry] = performance.getEntriesByType("navigation") as PerformanceNavigationTiming[];
  const [addresses, search] = JSON.parse(sessionStorage.getItem(LEFT) ?? "[[]]");
  sessionStorage.removeItem(LEFT);
  return entry?.type !== "navigate" && addresses.includes(window.location.href) ? search : null;
})();

/** The address, as it would be if all had been written in time. */
function current(): string {
  const search = missed ?? window.location.search;
  missed = null;
  return search;
}

function read(search: string) {
  const address = new URLSearchParams(search);
  return { ...hereOf(address), layout: layoutOf(address), walk: Number(address.get("pass")) || null };
}

function layoutOf(address: URLSearchParams): Layout {
  const said = address.get("layout");
  return said === "two" || said === "one" ? said : "group";
}

function arrive() {
  const search = current();
  const { frame, filter, filterOn, layout, walk } = read(search);
  if (walk !== null && window.location.pathname.endsWith("/bench")) goOnWith(walk);
  const shootId = Number(window.location.pathname.split("/")[2]);
  if (frame !== null) setPlace(shootId, frame);
  useStage.setState({ layout });
  const left = filterLeft(shootId);
  const isLed = new URLSearchParams(search).toString() !== "";
  if (isLed || !left) return { filter, filterOn };
  return { filter: { show: left, parts: [] }, filterOn: true, filterCameBack: true };
}

/** Goes on with a pass once the shoot is there. */
function goOnWith(walk: number) {
  const isThere = () => useShoot.getState().loaded;
  const stop = useShoot.subscribe(() => {
    if (!isThere()) return;
    stop();
    void resumeWalk(walk);
  });
}

/** The address is not that of the filter which was in force just now, but of one that is being gone to. */
let going = false;

function write({ filter, filterOn, active, loaded } = useShoot.getState(), isSame = false) {
  if (!loaded) return;
  const search = searchOf({ filter, filterOn, frame: active });
  const { layout } = useStage.getState();
  const { walk } = useWalk.getState();
  // A pass has its own stage.
  if (walk) search.set("pass", String(walk.id));
  else if (layout !== "group") search.set("layout", layout);
  const before = new URLSearchParams(window.location.search);
  if (search.toString() === before.toString()) return;
  earlier = [window.location.href, ...earlier].slice(0, EARLIER);
  const to = `${window.location.pathname}?${search}`;
  if (viewIn(search) !== viewIn(before) && !isSame) navigate(to);
  else navigate(to, { replace: true, state: window.history.state });
}

/** What of an address says which frames are in view. */
function viewIn(address: URLSearchParams): string {
  return JSON.stringify([address.get("show"), address.get("filter")]);
}

/** Back or Forward was pressed. With another filter they lead to the frame one was at with it; from screen to screen one
 * stays at the frame. */
function comeBack() {
  const { filter, filterOn, frame, layout, walk } = read(window.location.search);
  const now = useShoot.getState();
  const search = searchOf({ ...now, frame: null });
  if (viewIn(search) !== viewIn(new URLSearchParams(window.location.search))) {
    going = true;
    useShoot.setState({ filter, filterOn });
    going = false;
    if (frame !== null && now.frames.has(frame)) activate(frame);
    void refreshView();
  }
  const isBench = window.location.pathname.endsWith("/bench");
  if (isBench && walk !== (useWalk.getState().walk?.id ?? null))
    void (walk === null ? leaveWalk() : resumeWalk(walk));
  else if (isBench && walk === null && layout !== useStage.getState().layout) setLayout(layout);
}
