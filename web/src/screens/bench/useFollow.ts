import { useQuery } from "@tanstack/react-query";
import { useLayoutEffect } from "react";
import { api, type Frame, unwrap } from "../../api/client";
import type { Found, Point } from "../../pictures/aim";
import { useAim } from "../../pictures/aimStore";
import { useSettings } from "../../ui/settings";
import { useRested } from "../../ui/useRested";

/** The subject is looked up ahead once a frame has been looked at this long. */
const RESTED_MS = 300;

/** Keeps the places where the frames on the stage show the point that is looked at. Before anything is zoomed
 * the subject of the active frame is looked up, so that the first zoom stands right at once. */
export function useFollow(onStage: Frame[], active: Frame, subject: Point | null) {
  const follow = useSettings((s) => s.follow);
  const zoomed = useAim((s) => s.aim.scale !== "fit");
  const aimFrame = useAim((s) => s.aim.frame);
  const aimPoint = useAim((s) => s.aim.point);
  const ahead = !zoomed || aimFrame === null;
  const from = ahead ? active.id : aimFrame;
  const point = ahead ? subject : aimPoint;
  const rested = useRested(active.id, RESTED_MS) !== undefined;
  const others = onStage.filter((frame) => frame.id !== from && !frame.problem).map((frame) => frame.id);
  const { data } = useQuery({
    queryKey: ["same-point", from, point?.x, point?.y, others.join()],
    enabled: follow && (rested || !ahead) && point !== null && others.length > 0,
    staleTime: Number.POSITIVE_INFINITY,
    retry: false,
    queryFn: async () => {
      const answer = await api.GET("/api/frames/{frame_id}/same-point", {
        params: { path: { frame_id: from }, query: { x: point?.x ?? 0, y: point?.y ?? 0, among: others } },
      });
      return new Map<number, Found>(unwrap(answer).map((found) => [found.frame_id, found]));
    },
  });
  // Before the paint: known places must not be shown wrongly first.
  useLayoutEffect(() => {
    if (!follow) useAim.setState({ found: new Map() });
    else if (data) useAim.setState(ahead ? { ahead: data } : { found: data });
  }, [data, follow, ahead]);
}
