import { useEffect, useRef } from "react";
import { usePanels } from "../../panels/shown";
import { activate } from "../../shoot/moving";
import { endRunThrough, useRunThrough } from "../../shoot/runThrough";
import { useShoot } from "../../shoot/store";
import { useSettings } from "../../ui/settings";
import { stageNeighbour } from "./compared";
import { useStage } from "./stageStore";

/** One frame changes into the next for so long, ms. */
const CHANGE_MS = 350;

/** Runs through what is in view: one frame, nothing else; the timer goes the way of the last step. */
export function RunThrough() {
  const on = useRunThrough((s) => s.on);
  return on ? <Running /> : null;
}

function Running() {
  const note = useRunThrough((s) => s.note);
  const seconds = useSettings((s) => s.staySeconds);
  const active = useShoot((s) => s.active);
  const way = useRef<1 | -1>(1);
  useBareStage();
  useEffect(
    () =>
      useShoot.subscribe((now, before) => {
        const [from, to] = [before.places.get(before.active ?? -1), now.places.get(now.active ?? -1)];
        if (from !== undefined && to !== undefined && from !== to) way.current = to < from ? -1 : 1;
      }),
    [],
  );
  // biome-ignore lint/correctness/useExhaustiveDependencies: each frame stays as long as the others
  useEffect(() => {
    if (!seconds) return;
    const timer = setTimeout(() => activate(stageNeighbour(way.current)), seconds * 1000);
    return () => clearTimeout(timer);
  }, [seconds, active]);
  return (
    <>
      <Changing />
      {note && (
        <output className="over-picture absolute bottom-4 left-1/2 z-30 -translate-x-1/2 rounded px-3 py-1">
          {note}
        </output>
      )}
    </>
  );
}

/** One frame and no chrome, for as long as it lasts; when the full screen is left, so is this. */
function useBareStage() {
  useEffect(() => {
    const { layout } = useStage.getState();
    const { bare } = usePanels.getState();
    useStage.setState({ layout: "one", blink: false });
    usePanels.setState({ bare: true });
    const onFullScreen = () => document.fullscreenElement || endRunThrough();
    document.addEventListener("fullscreenchange", onFullScreen);
    return () => {
      document.removeEventListener("fullscreenchange", onFullScreen);
      useStage.setState({ layout });
      usePanels.setState({ bare });
      endRunThrough();
    };
  }, []);
}

/** The picture before lies over the next one until that is drawn, and goes softly; at once for who wants no motion. */
function Changing() {
  const canvas = useRef<HTMLCanvasElement>(null);
  const drawn = useStage((s) => s.drawn);
  useEffect(
    () =>
      useShoot.subscribe((now, before) => {
        const over = canvas.current;
        const shown = document.querySelector<HTMLCanvasElement>("[data-testid=stage] canvas");
        const isCalm = matchMedia("(prefers-reduced-motion: reduce)").matches;
        if (now.active === before.active || !over || !shown || isCalm) return;
        const bounds = shown.getBoundingClientRect();
        over.width = shown.width;
        over.height = shown.height;
        over.getContext("2d")?.drawImage(shown, 0, 0);
        Object.assign(over.style, {
          left: `${bounds.left}px`,
          top: `${bounds.top}px`,
          width: `${bounds.width}px`,
          height: `${bounds.height}px`,
          transition: "none",
          opacity: "1",
        });
        // The next one may be drawn at once: without this, nothing would be seen to go.
        over.getBoundingClientRect();
      }),
    [],
  );
  // biome-ignore lint/correctness/useExhaustiveDependencies: once the next one is drawn
  useEffect(() => {
    const over = canvas.current;
    if (over) Object.assign(over.style, { transition: `opacity ${CHANGE_MS}ms`, opacity: "0" });
  }, [drawn]);
  return (
    <canvas
      ref={canvas}
      data-testid="changing"
      className="pointer-events-none fixed z-20"
      style={{ opacity: 0 }}
    />
  );
}
