/** Opening a shoot, and keeping up with what changes in it. */

import { useCallback, useEffect } from "react";
import { type News, onReconnect, useNews } from "../api/events";
import { loadActions, noteChange, noteOwnRevision } from "./actions";
import { noteNews, refresh } from "./frames";
import { showOutbox } from "./marking";
import { blank, type ShootState, takeProgress, useShoot } from "./store";
import { forgetTold } from "./told";
import { forgetTrail } from "./trail";
import { forgetView, refreshView } from "./view";

/** start: where in it the person arrives. */
function open(shootId: number, start: () => Partial<ShootState>) {
  const { shootId: before, loaded } = useShoot.getState();
  if (before === shootId && loaded) {
    useShoot.setState(start());
    return void refreshView();
  }
  forgetTold();
  forgetView();
  forgetTrail();
  noteOwnRevision(0);
  useShoot.setState({ ...blank(shootId), ...start() }, true);
  showOutbox();
  void catchUp();
}

/** Fetches all that is not known yet. */
export async function catchUp() {
  await refresh();
  if (useShoot.getState().loaded) await loadActions();
}

const ANYWHERE = () => ({});

/** Opens a shoot and follows what changes in it, in this window and elsewhere. */
export function useOpenShoot(shootId: number, start: () => Partial<ShootState> = ANYWHERE) {
  useEffect(() => open(shootId, start), [shootId, start]);
  useEffect(() => onReconnect(() => void catchUp()), []);
  useNews(
    useCallback(
      (news: News) => {
        if (news.kind === "labels" || news.shoot_id !== shootId || !("revision" in news)) return;
        if (news.kind === "progress") {
          const { kind: _, revision: __, ...progress } = news;
          takeProgress(progress);
        }
        if (news.kind === "frames") noteChange(news.revision);
        noteNews(news.revision);
      },
      [shootId],
    ),
  );
}
