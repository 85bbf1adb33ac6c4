import { useEffect } from "react";
import { usePanels } from "../../panels/shown";
import { useAim } from "../../pictures/aimStore";
import { useShoot } from "../../shoot/store";
import { goesByFrames, useWalk } from "../../shoot/walk/store";
import type { Layout } from "./stageStore";
import { useStage } from "./stageStore";
import { pairUp } from "./staging";
import { zoomTo } from "./zooming";

const LAYOUTS: Record<string, Layout> = {
  "one frame": "one",
  "two frames": "two",
  "the whole group": "group",
};

/** Sets the stage as the pass wants it that one is in, and as it was when one leaves. */
export function useWalkStage() {
  const walk = useWalk((s) => s.walk);
  useEffect(() => {
    if (!walk) return;
    const { definition: pass } = walk;
    const { layout, keptOnly } = useStage.getState();
    const { spine, evidence, bare } = usePanels.getState();
    const isTwo = pass.beside_keeper || pass.order === "two by two";
    useStage.setState({
      keptOnly: !goesByFrames(pass) && pass.leaves !== "nothing",
      layout: isTwo ? "two" : (LAYOUTS[pass.layout] ?? "one"),
      blink: false,
      aside: [],
      holder: null,
    });
    usePanels.setState({ spine: false, evidence: false, bare: pass.full });
    const stop = whenThere(() => {
      pairUp();
      if (pass.zoom === "100 %" && useAim.getState().aim.scale === "fit") zoomTo(1, performance.now());
    });
    return () => {
      stop();
      useStage.setState({ layout, keptOnly, aside: [], blink: false });
      usePanels.setState({ spine, evidence, bare });
    };
  }, [walk]);
}

/** Calls back once the frame that the pass begins at is the active one. Returns what ends waiting for it. */
function whenThere(act: () => void): () => void {
  const isThere = () => useWalk.getState().places.has(useShoot.getState().active ?? -1);
  if (isThere()) {
    act();
    return () => undefined;
  }
  const stop = useShoot.subscribe(() => {
    if (!isThere()) return;
    stop();
    act();
  });
  return stop;
}
