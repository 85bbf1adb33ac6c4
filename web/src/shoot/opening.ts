/** Opening a shoot, and keeping up with what changes in it. */

import { useCallback, useEffect } from "react";
import { type News, onReconnect, useNews } from "../api/events";
import { loadActions, noteChange, noteOwnRevision } from "./actions";
import { noteNews, refresh } from "./frames";
import { showOutbox } from "./marking";
import { blank, takeProgress, useShoot } from "./store";
import { forgetTold } from "./told";
import { forgetTrail } from "./trail";
import { forgetView } from "./view";

function open(shootId: number) {
  const { shootId: before, loaded } = useShoot.getState();
  if (before === shootId && loaded) return;
  forgetTold();
  forgetView();
  forgetTrail();
  noteOwnRevision(0);
  useShoot.setState(blank(shootId), true);
  showOutbox();
  catchUp();
}

function catchUp() {
  void refresh();
  void loadActions();
}

/** Opens a shoot and follows what changes in it, in this window and elsewhere. */
export function useOpenShoot(shootId: number) {
  useEffect(() => open(shootId), [shootId]);
  useEffect(() => onReconnect(catchUp), []);
  useNews(
    useCallback(
      (news: News) => {
        if (news.shoot_id !== shootId || news.kind === "plan") return;
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
