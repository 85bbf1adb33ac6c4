import { useLayoutEffect, useRef } from "react";
import type { Frame } from "../../api/client";
import type { Point } from "../../pictures/aim";
import { aimAt, useAim } from "../../pictures/aimStore";
import { sizeOf } from "../../pictures/zoom";
import { useShoot } from "../../shoot/store";

/** The zoom stays from group to group: on the subject of the new one, or at the same relative place. */
export function useAimKept(active: Frame, onStage: Frame[], subject: Point | null) {
  const aim = useAim((s) => s.aim);
  /** The frame whose subject is not known yet and is aimed at once it is. */
  const waiting = useRef<number | null>(null);
  const here = aim.frame === null || onStage.some((frame) => frame.id === aim.frame);
  useLayoutEffect(() => {
    if (aim.scale === "fit") return;
    const before = useShoot.getState().frames.get(aim.frame ?? -1);
    if (!here && before?.group !== active.group) {
      const [was, is] = [sizeOf(before ?? active), sizeOf(active)];
      const same = { x: (aim.point.x / was.width) * is.width, y: (aim.point.y / was.height) * is.height };
      waiting.current = aim.subject && !subject ? active.id : null;
      aimAt(active.id, aim.subject && subject ? subject : same, aim.scale, aim.subject);
    } else if (waiting.current === active.id && aim.frame === active.id && subject) {
      waiting.current = null;
      aimAt(active.id, subject, aim.scale, true);
    }
  }, [aim, here, active, subject]);
}
