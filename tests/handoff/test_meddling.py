"""Somebody else changes files while a plan stands half done: what they wrote stays, and so does the last of what they
wrote over."""

from __future__ import annotations

import os
from pathlib import Path

import pytest

from tests.disks import small_disk
from tests.handoff.test_import import Arrival
from tests.handoff.test_plans import Shoot, contents, shoot, wait_for_listing
from winnow.core.file_names import Naming
from winnow.formats.sized import Metadata, Sized
from winnow.handoff import apply as applying
from winnow.handoff import files
from winnow.store import plans
from winnow.store.plans import PlanKind, PlanState, StepState

__all__ = ["shoot"]


def reasons(shoot: Shoot, plan_id: int) -> list[str]:
    steps = plans.steps(shoot.desk.database.connection(), plan_id)
    return [str(step.reason) for step in steps if step.state is StepState.LEFT]


def test_the_copies_stay_whose_card_has_other_pictures_by_now(tmp_path: Path) -> None:
    """Cards are called alike, and the camera starts over with its numbers."""
    arrival = Arrival(tmp_path)
    plan_id = arrival.plan(second=str(arrival.second))
    assert arrival.apply(plan_id) is PlanState.APPLIED
    again = sorted(arrival.source.rglob("*.JPG"))[:4]
    for path in again:
        path.chmod(0o644)
        path.write_bytes(b"another evening" + path.name.encode())
    assert applying.reverse(arrival.database, plan_id) is PlanState.REVERSED
    for target in (arrival.first, arrival.second):
        assert {path.name for path in target.rglob("*.JPG")} == {path.name for path in again}


def test_an_original_stays_whose_copy_was_written_over(shoot: Shoot, tmp_path: Path) -> None:
    """A move to another disk that stopped when all copies were there."""
    before = contents(shoot.folder)
    with small_disk(tmp_path / "disk") as disk:
        plan_id = shoot.plan(PlanKind.MOVE_KEEPERS, disk / "keepers")
        count = len(plans.steps(shoot.desk.database.connection(), plan_id))
        asked = iter(range(1, 2 * count))
        stopped = applying.apply(
            shoot.desk.database, plan_id, stop=lambda: "enough" if next(asked) == count else None
        )
        assert stopped is PlanState.STOPPED
        (copy,) = disk.rglob("WIN_0002.JPG")
        copy.write_bytes(b"edited")
        os.utime(next(disk.rglob("WIN_0003.JPG")))  # only touched
        assert shoot.apply(plan_id) is PlanState.APPLIED
        assert contents(shoot.folder)["100WINNO/WIN_0002.JPG"] == before["100WINNO/WIN_0002.JPG"]
        assert "100WINNO/WIN_0003.JPG" not in contents(shoot.folder)
        assert copy.read_bytes() == b"edited"
    assert ["changed while it was copied" in reason for reason in reasons(shoot, plan_id)] == [True]


def test_what_was_held_and_is_gone_is_not_called_back_because_of_a_file_of_its_name(shoot: Shoot) -> None:
    """A card was copied into the folder again, the holding folder was cleared out by hand."""
    reject = shoot.folder / "100WINNO" / "WIN_0004.JPG"
    plan_id = shoot.plan(PlanKind.HOLD_REJECTS)
    assert shoot.apply(plan_id) is PlanState.APPLIED
    steps = plans.steps(shoot.desk.database.connection(), plan_id)
    held = next(step.target for step in steps if step.source == str(reject))
    os.unlink(held)
    reject.write_bytes(b"another evening")
    assert shoot.reverse(plan_id) is PlanState.REVERSED
    assert reject.read_bytes() == b"another evening"
    assert [held in reason for reason in reasons(shoot, plan_id)] == [True]


def test_a_file_in_the_place_of_a_link_stays(shoot: Shoot, monkeypatch: pytest.MonkeyPatch) -> None:
    link = shoot.folder / "100WINNO" / "WIN_0004.NEF"
    link.symlink_to("WIN_0004.JPG")
    wait_for_listing(shoot)
    plan_id = shoot.plan(PlanKind.HOLD_REJECTS)

    def fail(path: str) -> None:
        raise OSError(5, "Input/output error", path)

    with monkeypatch.context() as patched:
        patched.setattr(files, "remove", fail)
        assert shoot.apply(plan_id) is PlanState.STOPPED
    link.unlink()
    link.write_bytes(b"somebody else's")
    assert shoot.apply(plan_id) is PlanState.APPLIED
    assert link.read_bytes() == b"somebody else's" and any(
        "WIN_0004.NEF" in told for told in reasons(shoot, plan_id)
    )
    assert shoot.reverse(plan_id) is PlanState.REVERSED
    assert link.read_bytes() == b"somebody else's"


def test_a_sidecar_that_changes_while_names_are_given_stays_and_is_told(
    shoot: Shoot, monkeypatch: pytest.MonkeyPatch
) -> None:
    assert shoot.apply(shoot.plan(PlanKind.WRITE_SIDECARS)) is PlanState.APPLIED
    plan_id = shoot.plan(PlanKind.RENAME, naming=Naming("kiln_{counter:2}"))
    rename, sidecar = files.rename, "kiln_01.xmp"

    def meddling(source: str, target: str, sync: files.Sync | None = None) -> None:
        rename(source, target, sync)
        if target.endswith(sidecar):
            Path(target).write_bytes(b"somebody else's")

    monkeypatch.setattr(files, "rename", meddling)
    assert shoot.apply(plan_id) is PlanState.APPLIED
    assert (shoot.folder / "100WINNO" / sidecar).read_bytes() == b"somebody else's"
    assert [sidecar in reason for reason in reasons(shoot, plan_id)] == [True]


def test_no_jpeg_is_made_of_another_picture(shoot: Shoot, tmp_path: Path) -> None:
    wanted = Sized(64, 80, True, Metadata.ALL)
    plan_id = shoot.plan(PlanKind.COPY_KEEPERS, tmp_path / "keepers", sized=wanted)
    stopped = applying.apply(shoot.desk.database, plan_id, stop=lambda: "enough")
    assert stopped is PlanState.STOPPED
    card = shoot.folder / "100WINNO"
    (card / "WIN_0002.JPG").write_bytes((card / "WIN_0004.JPG").read_bytes())
    (card / "WIN_0003.JPG").unlink()
    assert shoot.apply(plan_id) is PlanState.APPLIED
    assert [path.name for path in (tmp_path / "keepers").rglob("*.jpg")] == ["WIN_0001.jpg"]
    assert sorted(reason.rsplit("/", 1)[1] for reason in reasons(shoot, plan_id)) == [
        "WIN_0002.JPG was changed after the plan was made.",
        "WIN_0003.JPG is no longer there.",
    ]
