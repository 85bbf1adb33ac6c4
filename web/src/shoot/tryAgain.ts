import { api, unwrap } from "../api/client";
import { attempt } from "./errors";

/** Reads the folder again and tries whatever failed once more, except files that are no pictures. */
export function tryAgain(shootId: number) {
  return attempt(() =>
    api.POST("/api/shoots/{shoot_id}/try-again", { params: { path: { shoot_id: shootId } } }).then(unwrap),
  );
}
