import { useCallback } from "react";
import type { Frame } from "../api/client";
import { useShout } from "../keys/useKeys";
import { aimAt, useStage } from "./stageStore";
import { useEvidence } from "./useEvidence";

/** Steps through the faces of the active frame, from left to right, at a locked zoom. */
export function useFaceSteps(frame: Frame | undefined) {
  const { data } = useEvidence(frame);
  const step = useCallback(
    (by: 1 | -1) => {
      if (!frame || !data?.faces?.length) return;
      const faces = data.faces
        .map(({ box: [x0, y0, x1, y1] }) => ({ x: (x0 + x1) / 2, y: (y0 + y1) / 2 }))
        .sort((a, b) => a.x - b.x);
      const { aim } = useStage.getState();
      const at =
        aim.frame === frame.id && aim.scale !== "fit"
          ? faces.findIndex((face) => face.x === aim.point.x && face.y === aim.point.y)
          : by > 0
            ? -1
            : 0;
      const next = faces[(at + by + faces.length) % faces.length];
      if (next) aimAt(frame.id, next, aim.scale === "fit" ? 1 : aim.scale, false, performance.now());
    },
    [frame, data],
  );
  useShout(
    "next-face",
    useCallback(() => step(1), [step]),
  );
  useShout(
    "previous-face",
    useCallback(() => step(-1), [step]),
  );
}
