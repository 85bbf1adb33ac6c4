"""A shoot of four times the frames costs four times the work of the database, not sixteen times."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.store.test_store import NOW, fill
from winnow.core.filters import FrameFilter
from winnow.core.labels import FIRST
from winnow.pipeline.grouping import GroupingMemory, regroup
from winnow.pipeline.waiting import Waiting, distance
from winnow.store import archives, evidence, frames, listing, search, shoots
from winnow.store.census import Census
from winnow.store.database import Database

FEW, MANY = 150, 600
STEPS = 50
"""Instructions of the database machine between two counts."""


def steps(database: Database, act: Callable[[], object]) -> int:
    counted = 0

    def count() -> int:
        nonlocal counted
        counted += 1
        return 0

    database.connection().set_progress_handler(count, STEPS)
    act()
    database.connection().set_progress_handler(None, 0)
    return counted


def relist(database: Database, shoot_id: int) -> None:
    with database.transaction() as connection:
        listing.reconcile(connection, shoot_id, [], {}, 2)


WORK: dict[str, Callable[[Database, int], object]] = {
    "groups": lambda database, shoot: regroup(database, shoot, GroupingMemory()),
    "pictures": lambda database, shoot: frames.pictures(database.connection(), shoot),
    "measured": lambda database, shoot: evidence.measured_frames(database.connection(), shoot),
    "search": lambda database, shoot: search.bring_up(database, shoot),
    "census": lambda database, shoot: Census(shoot).look(database.connection(), FrameFilter(), FIRST),
    "archive": lambda database, shoot: archives.read(
        database.connection(), shoots.get(database.connection(), shoot), NOW
    ),
    "gone": relist,
}


@pytest.mark.parametrize("name", WORK)
def test_work_grows_with_the_frames(tmp_path: Path, name: str) -> None:
    took = []
    for count in (FEW, MANY):
        database = Database(tmp_path / f"{count}.sqlite")
        shoot_id, _ = fill(database, tmp_path, count)
        with database.transaction() as connection:
            connection.execute("UPDATE frame SET content = 'content ' || id, stage = 2, version = 'v' || id")
            shoots.next_revision(connection, shoot_id)
        took.append(steps(database, lambda db=database, of=shoot_id: WORK[name](db, of)))  # type: ignore[misc]
    few, many = took
    assert few > 3, "nothing was counted"
    assert many <= 6 * few


places = st.integers(0, 60)


@given(st.lists(places, max_size=30), st.lists(st.tuples(st.booleans(), st.integers(0, 29), places)), places)
def test_what_is_wanted_first_is_found(
    positions: list[int], changes: list[tuple[bool, int, int]], focus: int
) -> None:
    def picture(frame_id: int, position: int) -> frames.Picture:
        return frames.Picture(frame_id, "v", 1, position, None, "/a.jpg", 1, "/", True)

    waiting = Waiting(picture(*one) for one in enumerate(positions))
    plain = {number: picture(number, position) for number, position in enumerate(positions)}
    for is_new, frame_id, position in changes:
        for of in (waiting, plain):
            if is_new:
                of[frame_id] = picture(frame_id, position)
            else:
                of.pop(frame_id, None)
    found = waiting.nearest(focus)
    assert dict(waiting) == plain
    assert (found is None) == (not plain)
    if found:
        assert distance(found, focus) == min(distance(one, focus) for one in plain.values())
