"""What is kept in memory and in the database has a limit: counted."""

from __future__ import annotations

import asyncio
from pathlib import Path

import numpy as np

from tests import photographs
from winnow.api import events
from winnow.api.desk import MOST_CENSUSES, Desk
from winnow.core.similarity import compare, describe
from winnow.pipeline.engine import wait_until_idle
from winnow.pipeline.grouping import GroupingMemory, regroup
from winnow.store import plans, shoots

NOW = "2026-10-17T20:00:00.000+00:00"
LIKE = compare(*2 * [describe(np.zeros((64, 64, 3), np.uint8))])
LATER = "2026-10-19T20:00:00.000+00:00"


def test_columns_of_few_shoots_are_kept(desk: Desk) -> None:
    for shoot_id in range(1, 50):
        desk.census(shoot_id)
    kept = desk.census(49)
    assert len(desk.censuses) == MOST_CENSUSES and desk.census(49) is kept


def test_grouping_remembers_only_pictures_that_are_there(desk: Desk, measured_folder: Path) -> None:
    shoot = desk.open_folder(str(measured_folder))
    wait_until_idle(desk.engine)
    memory = GroupingMemory(faces={(n, "old"): () for n in range(1000)})
    memory.likenesses = {((n, "old"), (n + 1, "old"), True): LIKE for n in range(1000)}
    with desk.database.transaction() as connection:
        connection.execute("UPDATE shoot SET grouped_as = NULL")
    regroup(desk.database, shoot, memory)
    assert len(memory.faces) == 6 and not any("old" in (a[1], b[1]) for a, b, _ in memory.likenesses)


def test_shoots_of_imports_that_came_to_nothing_are_deleted(desk: Desk, tmp_path: Path) -> None:
    photographs.save(tmp_path / "real" / "a.jpg", edge=photographs.SMALL)
    real = desk.open_folder(str(tmp_path / "real"))
    wait_until_idle(desk.engine)
    with desk.database.transaction() as connection:
        shoots.hide(connection, real)
        connection.execute("UPDATE shoot SET created_at = ?", (NOW,))
        left = [shoots.open_folder(connection, tmp_path / f"to {n}", NOW, hidden=True) for n in range(20)]
    plans.delete_leftovers(desk.database, NOW)
    assert shoots.get(desk.database.connection(), left[0]), "one that was begun just now stays"
    plans.delete_leftovers(desk.database, LATER)
    assert [shoot.id for shoot in shoots.every(desk.database.connection())] == [real]


def test_a_reader_of_events_that_falls_behind_is_disconnected(desk: Desk) -> None:
    async def follow() -> int:
        stream = events._stream(desk)
        await anext(stream)
        for n in range(events.MOST_WAITING * 3):
            desk.events.publish("frames", n=n)
        await asyncio.sleep(0)
        return len([line async for line in stream])

    assert asyncio.run(follow()) == events.MOST_WAITING
