/** All that is known of single frames: capture data and files. */

import { queryOptions } from "@tanstack/react-query";
import { api, type Frame, unwrap } from "../api/client";

export function detailsOf(frame: Frame) {
  return queryOptions({
    queryKey: ["frame", frame.id, frame.version, frame.stage],
    queryFn: () =>
      api.GET("/api/frames/{frame_id}", { params: { path: { frame_id: frame.id } } }).then(unwrap),
  });
}
