/** A second window follows this one: where it is and how it looks is told over a channel. */

import { useEffect } from "react";
import { type Aim, type Found, WHOLE } from "../../pictures/aim";
import { useAim } from "../../pictures/aimStore";
import { useShoot } from "../../shoot/store";
import { type Overlay, useStage } from "./stageStore";

interface Told {
  active: number | null;
  aim: Aim;
  found: Map<number, Found>;
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
      const { active } = useShoot.getState();
      const { overlays } = useStage.getState();
      channel.postMessage({ active, overlays, ...useAim.getState() } satisfies Told);
    };
    channel.onmessage = ({ data }) => data === ASKING && tell();
    const ends = [
      useShoot.subscribe((now, before) => now.active !== before.active && tell()),
      useStage.subscribe((now, before) => now.overlays !== before.overlays && tell()),
      useAim.subscribe(tell),
    ];
    tell();
    return () => {
      for (const end of ends) end();
      channel.close();
    };
  }, [shootId]);
}

/** Follows the window that tells. */
export function useFollowWindow(shootId: number) {
  useEffect(() => {
    useStage.setState({ layout: "one" });
    useAim.setState({ aim: WHOLE });
    const channel = channelOf(shootId);
    channel.onmessage = ({ data }: MessageEvent<Told | typeof ASKING>) => {
      if (data === ASKING) return;
      const { active, overlays, aim, found } = data;
      useAim.setState({ aim, found });
      useStage.setState({ overlays });
      useShoot.setState({ active });
    };
    channel.postMessage(ASKING);
    return () => channel.close();
  }, [shootId]);
}
