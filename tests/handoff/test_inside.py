"""Marks written into pictures by a plan: verified, known again, taken back to the byte."""

from __future__ import annotations

import subprocess
from pathlib import Path

import pytest

from tests.faults.scene import contents
from tests.handoff.test_plans import Shoot
from winnow.api.desk import Desk
from winnow.core.marks import Field
from winnow.handoff import inside
from winnow.pipeline.engine import wait_until_idle
from winnow.store.plans import PlanKind, PlanState


@pytest.fixture
def shoot(desk: Desk, shoot_folder: Path) -> Shoot:
    shoot = Shoot(desk, shoot_folder)
    shoot.mark(Field.RATING, 5, 0, 1)
    return shoot


def told(path: Path, tag: str) -> str:
    """As exiftool (Debian) reads it."""
    return subprocess.run(["exiftool", "-s3", tag, path], capture_output=True, text=True).stdout.strip()


def measured(shoot: Shoot) -> list[str]:
    connection = shoot.desk.database.connection()
    return [row["version"] for row in shoot.rows()] + [
        str(row[0]) for row in connection.execute("SELECT version FROM evidence ORDER BY frame_id")
    ]


def test_marks_go_into_the_files_and_out_again(shoot: Shoot) -> None:
    before, versions = contents(shoot.folder), measured(shoot)
    plan_id = shoot.plan(PlanKind.WRITE_INSIDE)
    assert shoot.apply(plan_id) is PlanState.APPLIED
    first = shoot.folder / "100WINNO" / "WIN_0001.JPG"
    assert (told(first, "-XMP-xmp:Rating"), told(first, "-XMP-winnow:all")) >= ("5", "")
    shoot.desk.engine.open(shoot.id)
    wait_until_idle(shoot.desk.engine)
    assert measured(shoot) == versions, "nothing is measured again"
    assert shoot.read(shoot.plan(PlanKind.WRITE_INSIDE)).summary["blocked"] == "There is nothing to do."
    # What another program writes inside since is noticed, and comes in.
    subprocess.run(["exiftool", "-q", "-overwrite_original", "-XMP-xmp:Rating=3", first], check=True)
    changed = first.read_bytes()
    shoot.desk.engine.open(shoot.id)
    wait_until_idle(shoot.desk.engine)
    assert shoot.marked(0).rating == 3
    # Taken back: all but what somebody else has changed since.
    assert shoot.reverse(plan_id) is PlanState.REVERSED
    assert contents(shoot.folder) == before | {str(first): contents(first.parent)[str(first)]}
    assert first.read_bytes() == changed
    assert [row["rating"] for row in shoot.rows()][1] == 5


def test_cut_off_it_goes_on_or_back(shoot: Shoot, monkeypatch: pytest.MonkeyPatch) -> None:
    """After the file was replaced and before that was recorded."""
    before = contents(shoot.folder)
    plan_id = shoot.plan(PlanKind.WRITE_INSIDE)
    real = inside.embedded

    def cut_off(*arguments: object) -> str:
        raise KeyboardInterrupt

    for way in ("apply", "reverse"):
        monkeypatch.setattr(inside, "embedded", cut_off)
        with pytest.raises(KeyboardInterrupt):
            shoot.apply(plan_id)
        monkeypatch.setattr(inside, "embedded", real)
        assert contents(shoot.folder) != before
        if way == "apply":
            assert shoot.apply(plan_id) is PlanState.APPLIED
        assert shoot.reverse(plan_id) is PlanState.REVERSED
        assert contents(shoot.folder) == before
        plan_id = shoot.plan(PlanKind.WRITE_INSIDE)
