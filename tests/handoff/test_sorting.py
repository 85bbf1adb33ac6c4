"""Copies and moves of what a filter shows, of files of one kind, and into folders of their own."""

from __future__ import annotations

import subprocess
from pathlib import Path

import pytest
from PIL import Image

from tests.handoff.test_plans import Shoot, contents, wait_for_listing
from tests.handoff.test_plans import shoot as shoot
from winnow.core.file_names import Naming
from winnow.core.labels import FIRST
from winnow.core.marks import Decision, Field
from winnow.core.pairing import Role
from winnow.core.sorting import Into, folder_of, safe_name
from winnow.formats.sized import Metadata, Sized
from winnow.handoff.draft import PlanError
from winnow.store import plans
from winnow.store.plans import PlanKind, PlanState

FRAME = {"label": None, "rating": 0, "captured_at": None, "scene": 0, "camera": None}


@pytest.mark.parametrize(
    ("into", "known", "folder"),
    [
        (Into.NOTHING, {}, ""),
        (Into.LABEL, {"label": "Retouch"}, "Retouch"),
        (Into.LABEL, {}, "no label"),
        (Into.LABEL, {"label": "Client: A/B"}, "Client- A-B"),
        (Into.RATING, {"rating": 1}, "1 star"),
        (Into.RATING, {}, "no stars"),
        (Into.DAY, {"captured_at": "2026-10-17T23:59:59.5+01:00"}, "2026-10-17"),
        (Into.DAY, {}, "no date"),
        (Into.SCENE, {"scene": 2}, "scene 3"),
        (Into.CAMERA, {"camera": "Tarn One"}, "Tarn One"),
        (Into.CAMERA, {"camera": " "}, "no camera"),
    ],
)
def test_the_folder_of_a_frame(into: Into, known: dict[str, object], folder: str) -> None:
    assert folder_of(into, FIRST, **{**FRAME, **known}) == folder  # type: ignore[arg-type]


@pytest.mark.parametrize(
    ("text", "name"),
    [
        ("a/b\\c", "a-b-c"),
        ("..", "_"),
        (".hidden", "hidden"),
        ("CON", "_CON"),
        ("x" * 300, "x" * 100),
        ("a. ", "a"),
    ],
)
def test_names_that_any_disk_takes(text: str, name: str) -> None:
    assert safe_name(text) == name


def test_what_a_filter_shows_goes_into_a_folder_for_each_label(shoot: Shoot, tmp_path: Path) -> None:
    before, target = contents(shoot.folder), tmp_path / "out"
    shoot.mark(Field.LABEL, "Retouch", 0, 3)
    plan_id = shoot.plan(PlanKind.COPY_KEEPERS, target, show="keepers or rejects", into=Into.LABEL)
    assert shoot.read(plan_id).summary["frames"] == 5
    assert shoot.apply(plan_id) is PlanState.APPLIED
    copied = contents(target)
    assert copied["Retouch/WIN_0001.NEF"] == before["100WINNO/WIN_0001.NEF"]
    assert {Path(name).parent.name for name in copied} == {"Retouch", "no label"}
    assert {Path(name).stem for name in copied if name.startswith("Retouch/")} == {"WIN_0001", "WIN_0004"}
    # What was copied goes again, with the folders that were made for it; the shoot is as it was.
    assert shoot.reverse(plan_id) is PlanState.REVERSED
    assert not list(target.rglob("*.*")) and contents(shoot.folder) == before


@pytest.mark.parametrize(("only", "suffix"), [(Role.RAW, ".NEF"), (Role.PICTURE, ".JPG")])
def test_files_of_one_kind_are_copied(shoot: Shoot, tmp_path: Path, only: Role, suffix: str) -> None:
    plan_id = shoot.plan(PlanKind.COPY_KEEPERS, tmp_path / "out", only=only)
    assert shoot.apply(plan_id) is PlanState.APPLIED
    copied = [Path(name) for name in contents(tmp_path / "out")]
    assert {path.suffix for path in copied} == {suffix, ".xmp"}
    raws = only is Role.RAW
    assert len([path for path in copied if path.suffix == suffix]) == (1 if raws else 3)
    warned = ["2 of the frames have no RAW and are left out."] if raws else []
    assert shoot.read(plan_id).summary["warnings"] == warned
    with pytest.raises(PlanError, match="takes all files"):
        shoot.plan(PlanKind.MOVE_KEEPERS, tmp_path / "out", only=only)


def test_a_move_by_a_filter_is_held_against_it_again(shoot: Shoot, tmp_path: Path) -> None:
    before, target = contents(shoot.folder), tmp_path / "out"
    with pytest.raises(PlanError, match="nothing that can be asked for"):
        shoot.plan(PlanKind.MOVE_KEEPERS, target, show="unicorns")
    plan_id = shoot.plan(PlanKind.MOVE_KEEPERS, target, show="rejects", into=Into.DAY)
    shoot.mark(Field.DECISION, Decision.KEEP.value, 3)
    shoot.mark(Field.DECISION, Decision.REJECT.value, 5)
    assert shoot.apply(plan_id) is PlanState.OUTDATED
    said = " ".join(shoot.read(plan_id).summary["differs"])
    assert "WIN_0004.JPG was marked differently" in said and "1 more frame(s) belong to it now" in said
    assert contents(shoot.folder) == before
    plan_id = shoot.plan(PlanKind.MOVE_KEEPERS, target, show="rejects", into=Into.DAY)
    assert shoot.apply(plan_id) is PlanState.APPLIED
    assert shoot.places()[4:] == ["moved", "moved"]
    assert shoot.reverse(plan_id) is PlanState.REVERSED
    assert contents(shoot.folder) == before and shoot.places() == ["shoot"] * 6


def test_all_files_of_a_frame_get_the_same_new_name(shoot: Shoot, tmp_path: Path) -> None:
    before, target = contents(shoot.folder), tmp_path / "out"
    naming = Naming("{subject}_{counter:3}", {"subject": "kiln"}, start=7)
    plan_id = shoot.plan(PlanKind.COPY_KEEPERS, target, naming=naming)
    assert shoot.apply(plan_id) is PlanState.APPLIED
    copied = contents(target)
    assert copied["kiln_007.NEF"] == before["100WINNO/WIN_0001.NEF"]
    assert copied["kiln_007.JPG"] == before["100WINNO/WIN_0001.JPG"]
    assert copied["kiln_009.JPG"] == before["100WINNO/WIN_0003.JPG"]
    assert {Path(name).stem for name in copied} >= {
        "kiln_007",
        "kiln_008",
        "kiln_009",
    } and "kiln_007.xmp" in copied
    # The same name twice: nothing is overwritten, and it is told.
    plan_id = shoot.plan(PlanKind.MOVE_KEEPERS, tmp_path / "moved", naming=Naming("kiln"))
    assert shoot.read(plan_id).summary["renamed_count"] > 0
    assert shoot.apply(plan_id) is PlanState.APPLIED
    assert {"kiln.JPG", "kiln-2.JPG", "kiln-3.JPG"} <= set(contents(tmp_path / "moved"))
    assert shoot.reverse(plan_id) is PlanState.REVERSED
    assert contents(shoot.folder) == before
    with pytest.raises(PlanError, match=r"Say what \{subject\} is"):
        shoot.plan(PlanKind.COPY_KEEPERS, target, naming=Naming("{subject}"))


def exif_of(path: Path) -> str:
    return subprocess.run(["exiftool", "-s", "-EXIF:all", path], capture_output=True, text=True).stdout


def test_jpegs_of_a_size_are_made_and_taken_back(shoot: Shoot, tmp_path: Path) -> None:
    target = tmp_path / "web"
    sized = Sized(200, metadata=Metadata.CONTACT)
    naming = Naming("kiln_{counter:2}")
    (shoot.folder / "100WINNO" / "WIN_0007.JPG").write_bytes(b"no picture")
    wait_for_listing(shoot)
    shoot.ids = [row["id"] for row in shoot.rows()]
    shoot.mark(Field.DECISION, "keep", 6)
    shoot.mark(Field.DECISION, "undecided", 2)
    plan_id = shoot.plan(PlanKind.COPY_KEEPERS, target, sized=sized, naming=naming)
    running = shoot.desk.runner.start(plan_id)
    assert running.result(60) is PlanState.APPLIED, shoot.read(plan_id).summary
    made = sorted(path.name for path in target.iterdir())
    assert made == ["kiln_01.jpg", "kiln_02.jpg"]
    assert max(Image.open(target / made[0]).size) == 200
    # Who wanted no more said than whose it is must not tell the rest: as exiftool (Debian) reads it.
    assert "DateTimeOriginal" in exif_of(shoot.folder / "100WINNO" / "WIN_0001.JPG")
    assert "DateTime" not in exif_of(target / made[0])
    left = plans.left_behind(shoot.desk.database.connection(), plan_id)
    assert len(left) == 1 and "WIN_0007" in left[0][1]
    (target / "kiln_02.jpg").write_bytes(b"retouched")
    assert shoot.reverse(plan_id) is PlanState.REVERSED
    assert [path.name for path in target.iterdir()] == ["kiln_02.jpg"]
    with pytest.raises(PlanError, match="made, not moved"):
        shoot.plan(PlanKind.MOVE_KEEPERS, target, sized=sized)
