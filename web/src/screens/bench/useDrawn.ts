import { useCallback, useRef } from "react";
import type { Quality } from "../../pictures/cache";
import { shown } from "../../ui/timing";
import { useStage } from "./stageStore";

/** Measures when all that is on the stage is drawn. Returns what a frame calls when it is. */
export function useDrawn(ids: number[], active: number, zoomed: boolean) {
  const drawn = useRef(new Map<number, Quality | null>());
  const now = useRef({ ids, active, zoomed });
  now.current = { ids, active, zoomed };
  return useCallback((id: number, quality: Quality | null) => {
    drawn.current.set(id, quality);
    const { ids: all, active: front, zoomed: close } = now.current;
    if (id === front && quality && quality !== "small") {
      shown("winnow:show-frame", id);
      if (useStage.getState().drawn !== id) useStage.setState({ drawn: id });
    }
    const isEach = (good: (quality: Quality) => boolean) =>
      all.every((one) => {
        const its = drawn.current.get(one);
        return its !== undefined && (its === null || good(its));
      });
    if (!isEach((its) => its !== "small")) return;
    shown("winnow:show-group", front);
    if (close) shown("winnow:zoom-preview", front);
    if (close && isEach((its) => its === "full")) shown("winnow:zoom-pixels", front);
  }, []);
}
