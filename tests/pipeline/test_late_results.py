"""A worker that is late: what it comes back with never replaces what is newer."""

from __future__ import annotations

from pathlib import Path

from tests import photographs
from winnow.api.desk import Desk
from winnow.core.points import Point
from winnow.pipeline.engine import wait_until_idle
from winnow.pipeline.tasks import TOO_SMALL
from winnow.store import evidence, frames
from winnow.store.evidence import Measured


def test_evidence_of_an_old_version_or_an_old_point_is_not_stored(desk: Desk, tmp_path: Path) -> None:
    photographs.save(tmp_path / "shoot" / "a.jpg")
    shoot = desk.open_folder(str(tmp_path / "shoot"))
    wait_until_idle(desk.engine)
    connection = desk.database.connection()
    (picture,) = frames.pictures(connection, shoot)
    held = evidence.load(connection, [picture.frame_id])[picture.frame_id]
    late = Measured("{}", b"late")
    with desk.database.transaction() as connection:
        assert not evidence.store(connection, picture.frame_id, "another version", late)
    assert evidence.load(connection, [picture.frame_id])[picture.frame_id].width == held.width
    with desk.database.transaction() as connection:
        evidence.set_points(connection, {picture.frame_id: Point(30, 40)})
        assert evidence.store(
            connection, picture.frame_id, picture.version, Measured("{}", b"", point=Point(30, 40))
        )
        assert not evidence.store(connection, picture.frame_id, picture.version, late)


def test_a_frame_that_is_too_small_is_no_crash(desk: Desk, tmp_path: Path) -> None:
    photographs.save(tmp_path / "shoot" / "a.jpg", edge=photographs.SMALL)
    desk.open_folder(str(tmp_path / "shoot"))
    wait_until_idle(desk.engine)
    row = (
        desk.database.connection()
        .execute("SELECT crashes, evidence.problem FROM frame JOIN evidence ON frame_id = frame.id")
        .fetchone()
    )
    assert tuple(row) == (0, TOO_SMALL.problem)
