/** A second window with the active frame, large, for a second display: it follows along, zoom included. */

import { useCallback, useEffect } from "react";
import { type News, useNews } from "../api/events";
import { activeFrame, openShoot, refresh, useShoot } from "../shoot/store";
import { type Aim, type Found, WHOLE } from "./aim";
import { Stage } from "./Stage";
import { type Overlay, useStage } from "./stageStore";

interface Told {
  active: number | null;
  aim: Aim;
  found: Map<number, Found>;
  follow: boolean;
  overlays: Record<Overlay, boolean>;
}

const ASKING = "where are you?";

function channelOf(shootId: number): BroadcastChannel {
  return new BroadcastChannel(`winnow-bench-${shootId}`);
}

/** Tells other windows where this one is. */
export function useTellWindows() {
  const shootId = useShoot((s) => s.shootId);
  useEffect(() => {
    const channel = channelOf(shootId);
    const tell = () => {
      const { aim, found, follow, overlays } = useStage.getState();
      channel.postMessage({
        active: useShoot.getState().active,
        aim,
        found,
        follow,
        overlays,
      } satisfies Told);
    };
    channel.onmessage = ({ data }) => data === ASKING && tell();
    const ends = [
      useShoot.subscribe((now, before) => now.active !== before.active && tell()),
      useStage.subscribe(tell),
    ];
    tell();
    return () => {
      for (const end of ends) end();
      channel.close();
    };
  }, [shootId]);
}

/** The window that follows. */
export function LargeView({ shootId }: { shootId: number }) {
  useEffect(() => openShoot(shootId), [shootId]);
  const hear = useCallback(
    (news: News) => {
      if (news.shoot_id === shootId && "revision" in news && news.revision > useShoot.getState().revision)
        void refresh();
    },
    [shootId],
  );
  useNews(hear, refresh);
  useEffect(() => {
    useStage.setState({ layout: "one", aim: WHOLE });
    const channel = channelOf(shootId);
    channel.onmessage = ({ data }: MessageEvent<Told | typeof ASKING>) => {
      if (data === ASKING) return;
      const { active, ...looks } = data;
      useStage.setState(looks);
      useShoot.setState({ active });
    };
    channel.postMessage(ASKING);
    return () => channel.close();
  }, [shootId]);
  const frame = useShoot(activeFrame);
  return (
    <main className="flex h-full flex-col" aria-label="The active frame, large">
      {frame ? <Stage frame={frame} bare /> : <p className="m-auto text-ink2">Waiting for the bench …</p>}
    </main>
  );
}
