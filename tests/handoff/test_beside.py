"""What is called as a picture goes where the picture goes: spoken notes, films of live photographs, what an editing
program keeps beside it. (Common practice, no source: cameras and programs know such files by their names alone.)"""

from __future__ import annotations

from pathlib import Path

import pytest

from tests.faults.scene import contents
from tests.handoff.test_plans import Shoot
from tests.handoff.test_renaming import listed, rename
from winnow.api.desk import Desk
from winnow.core.pairing import Role, pair
from winnow.store import plans
from winnow.store.plans import PlanKind, PlanState

BESIDE = {
    "WIN_0002.WAV": b"a word on it",
    "win_0002.mov": b"a second and a half",
    "WIN_0002.JPG.steps": b"what a program did to it",
    "WIN_0004.WAV": b"blurred, I think",
}
OTHERS = {"WIN_0002-b.WAV": b"of another", "WIN_00022.MOV": b"of another", ".WIN_0002.swp": b"hidden"}


@pytest.fixture
def shoot(desk: Desk, shoot_folder: Path) -> Shoot:
    for name, content in (BESIDE | OTHERS).items():
        (shoot_folder / "100WINNO" / name).write_bytes(content)
    return Shoot(desk, shoot_folder)


def lying(folder: Path) -> set[str]:
    return {path.name for path in folder.rglob("*") if path.name.upper().startswith("WIN_")}


def test_whose_it_is_is_told_by_the_name() -> None:
    names = [
        "A.JPG",
        "A.NEF",
        "A.WAV",
        "B.TIF",
        "b.tif.steps",
        "B.JPG",
        "B.MOV",
        "C.WAV",
        ".A.WAV",
        "A.JPG.xmp",
    ]
    frames = {frame.shown: frame for frame in pair(names)}
    assert {shown: frame.beside for shown, frame in frames.items()} == {
        "A.JPG": ["A.WAV"],
        "B.JPG": ["B.MOV"],
        "B.TIF": ["b.tif.steps"],
    }
    assert frames["A.JPG"].items() == [
        ("A.JPG", Role.PICTURE),
        ("A.NEF", Role.RAW),
        ("A.JPG.xmp", Role.SIDECAR),
    ]


def test_it_gets_the_new_name_and_the_old_one_back(shoot: Shoot) -> None:
    before = contents(shoot.folder)
    plan_id = rename(shoot, "kiln_{counter:4}", shoot.ids)
    assert "goes along (4)" in str(shoot.read(plan_id).summary["warnings"])
    assert shoot.apply(plan_id) is PlanState.APPLIED
    there = set(listed(shoot))
    assert {"kiln_0002.JPG", "kiln_0002.WAV", "kiln_0002.mov", "kiln_0002.JPG.steps", "kiln_0004.WAV"} < there
    assert there >= OTHERS.keys() and not there & BESIDE.keys()
    assert shoot.reverse(plan_id) is PlanState.REVERSED
    assert contents(shoot.folder) == before


def test_it_moves_and_is_copied_with_its_picture(shoot: Shoot, tmp_path: Path) -> None:
    before = contents(shoot.folder)
    copied = shoot.plan(PlanKind.COPY_KEEPERS, tmp_path / "copies", with_marks=False)
    assert shoot.apply(copied) is PlanState.APPLIED
    own = {"WIN_0002.JPG", "WIN_0002.WAV", "win_0002.mov", "WIN_0002.JPG.steps"}
    of_keepers = own | {"WIN_0001.JPG", "WIN_0001.NEF", "WIN_0001.xmp", "WIN_0003.JPG"}
    assert lying(tmp_path / "copies") == of_keepers
    # Of copies of one kind nothing else was wished for.
    only = shoot.plan(PlanKind.COPY_KEEPERS, tmp_path / "raw", with_marks=False, only=Role.PICTURE)
    assert shoot.apply(only) is PlanState.APPLIED
    assert lying(tmp_path / "raw") == {"WIN_0001.JPG", "WIN_0001.xmp", "WIN_0002.JPG", "WIN_0003.JPG"}
    moved = shoot.plan(PlanKind.MOVE_KEEPERS, tmp_path / "moved", with_marks=False)
    assert shoot.apply(moved) is PlanState.APPLIED
    assert lying(tmp_path / "moved") == of_keepers
    assert lying(shoot.folder) >= {"WIN_0004.WAV", "WIN_0002-b.WAV", "WIN_00022.MOV"}
    assert not lying(shoot.folder) & own
    assert shoot.reverse(moved) is PlanState.REVERSED
    assert contents(shoot.folder) == before


def test_names_that_are_taken_are_avoided_together(shoot: Shoot, tmp_path: Path) -> None:
    target = tmp_path / "kept"
    target.mkdir()
    (target / "WIN_0002.WAV").write_bytes(b"of an earlier shoot")
    assert shoot.apply(shoot.plan(PlanKind.MOVE_KEEPERS, target, with_marks=False)) is PlanState.APPLIED
    found = {path.read_bytes(): path.name for path in target.iterdir()}
    assert found[b"of an earlier shoot"] == "WIN_0002.WAV"
    base = found[BESIDE["WIN_0002.WAV"]].removesuffix(".WAV")
    assert base != "WIN_0002" and {f"{base}.JPG", f"{base}.JPG.steps"} <= set(found.values())


def test_with_a_reject_it_is_held_and_comes_back(shoot: Shoot) -> None:
    before = contents(shoot.folder)
    assert shoot.apply(shoot.plan(PlanKind.HOLD_REJECTS)) is PlanState.APPLIED
    assert "WIN_0004.WAV" not in lying(shoot.folder)
    assert shoot.apply(shoot.plan(PlanKind.BRING_BACK)) is PlanState.APPLIED
    assert contents(shoot.folder) == before


def test_off_the_disk_it_goes_too(shoot: Shoot) -> None:
    assert shoot.apply(shoot.plan(PlanKind.HOLD_REJECTS)) is PlanState.APPLIED
    thrown = shoot.plan(PlanKind.BIN)
    steps = plans.steps(shoot.desk.database.connection(), thrown)
    assert [Path(step.target).name for step in steps] == ["WIN_0004.JPG", "WIN_0004.WAV", "WIN_0005.JPG"]
