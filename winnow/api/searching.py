"""Frames found over all shoots."""

from __future__ import annotations

from sqlite3 import Row
from typing import Annotated

from fastapi import Query

from winnow.api.desk import OnDesk
from winnow.api.models.searching import FoundFrame, FoundShoot, SearchAnswer
from winnow.api.problems import answers
from winnow.api.routes import routes
from winnow.store import frames, search, shoots
from winnow.store.frames import Stage

router = routes("/api/search", "search")

LONGEST = 200
SHOWN = 24


@router.get("", responses=answers())
def search_frames(
    desk: OnDesk,
    text: Annotated[str, Query(max_length=LONGEST)],
    shown: Annotated[int, Query(ge=1, le=SHOWN)] = 8,
) -> SearchAnswer:
    """The frames whose names, words, label, camera, lens, date or shoot hold all words that are given, each as a
    beginning; what stands in quotes is one. Shoots outside the allowed roots are left out."""
    search.bring_up_few(desk.database)
    connection = desk.database.connection()
    answer = search.find(connection, text, shown)
    wanted = [frame_id for one in answer.shoots for frame_id in one.first]
    rows = {row["id"]: row for row in frames.summaries_of(connection, wanted)}
    found = []
    for one in answer.shoots:
        shoot = shoots.get(connection, one.shoot_id)
        if shoot is None or not desk.serves(shoot):
            continue
        first = [FoundFrame.model_validate(_told(rows[i])) for i in one.first if i in rows]
        found.append(FoundShoot(id=shoot.id, title=shoot.title, frames=one.frames, first=first))
    return SearchAnswer(
        shoots=found, frames=sum(one.frames for one in found), more=answer.more, behind=answer.behind
    )


def _told(row: Row) -> dict[str, object]:
    told = {name: row[name] for name in FoundFrame.model_fields if name != "prepared"}
    return {**told, "prepared": row["stage"] >= Stage.THUMBNAIL}
