import { useCallback, useEffect, useState } from "react";
import { useLocation } from "wouter";
import { type News, useNews } from "../api/events";
import { Bench } from "../bench/Bench";
import { Handoff } from "../handoff/Handoff";
import type { Screen } from "../keys/command";
import { KeysDialog } from "../keys/KeysDialog";
import { useKeys, useShout } from "../keys/useKeys";
import { Whereabouts } from "../shoots/Whereabouts";
import { Wall } from "../wall/Wall";
import { Header } from "./Header";

import { noteChange } from "./marking";
import { clearSelection } from "./moving";
import { ScopeLine } from "./ScopeLine";
import { Spine } from "./Spine";
import { dismissError, openShoot, refresh, takeProgress, useShoot } from "./store";
import { useCard } from "./useCard";

const SCREENS: Screen[] = ["bench", "wall", "handoff"];

/** One shoot: what all of its screens share, and the screen. */
export function ShootScreens({ shootId, screen: asked }: { shootId: number; screen: string }) {
  const [, navigate] = useLocation();
  const screen = SCREENS.find((name) => name === asked) ?? "wall";
  const go = useCallback(
    (to: Screen) => {
      if (to !== "wall") clearSelection();
      navigate(`/shoots/${shootId}/${to}`);
    },
    [navigate, shootId],
  );
  const [spine, setSpine] = useState(true);
  const [evidence, setEvidence] = useState(true);
  const [bare, setBare] = useState(false);
  const error = useShoot((s) => s.error);
  const loaded = useShoot((s) => s.loaded && s.shootId === shootId);
  const unreadable = useShoot((s) => s.progress?.state === "unreadable");
  const card = useCard(shootId);
  useEffect(() => openShoot(shootId), [shootId]);
  useKeys(screen, go);
  useShout(
    "spine",
    useCallback(() => setSpine((on) => !on), []),
  );
  useShout(
    "evidence",
    useCallback(() => setEvidence((on) => !on), []),
  );
  useShout(
    "panels",
    useCallback(() => setBare((on) => !on), []),
  );
  const hear = useCallback(
    (news: News) => {
      if (news.shoot_id !== shootId) return;
      if (news.kind === "progress") {
        const { kind: _, revision, ...progress } = news;
        takeProgress(progress);
        if (revision > useShoot.getState().revision) void refresh();
      } else if (news.kind === "frames") {
        noteChange(news.revision);
        if (news.revision > useShoot.getState().revision) void refresh();
      } else if (news.kind !== "plan" && news.revision > useShoot.getState().revision) void refresh();
    },
    [shootId],
  );
  useNews(hear, refresh);
  const panels = !bare && screen !== "handoff";
  return (
    <div className="flex h-full flex-col">
      {!bare && <Header screen={screen} go={go} />}
      {error && (
        <div role="alert" className="flex items-center gap-3 border-b border-edge bg-warm px-4 py-1.5">
          <span className="flex-1">{error}</span>
          <button type="button" className="underline" onClick={dismissError}>
            Close
          </button>
        </div>
      )}
      {card && (card.gone || unreadable) && (
        <div role="alert" className="flex items-center gap-3 border-b border-edge bg-warm px-4 py-1.5">
          <span className="flex-1">
            {card.folders.join(", ")} cannot be reached. Connect its disk, and the work goes on by itself; or
            say where it is now. All marks are kept.
          </span>
          <Whereabouts shootId={shootId} title={card.title} />
        </div>
      )}
      <div className="flex min-h-0 flex-1">
        {panels && spine && <Spine />}
        {!loaded ? (
          <main className="grid flex-1 place-items-center text-ink2">Opening the shoot …</main>
        ) : screen === "bench" ? (
          <Bench evidence={panels && evidence} bare={bare} />
        ) : screen === "wall" ? (
          <Wall openBench={() => go("bench")} />
        ) : (
          <Handoff shootId={shootId} />
        )}
      </div>
      {!bare && screen !== "handoff" && <ScopeLine screen={screen} />}
      <KeysDialog screen={screen} />
    </div>
  );
}
