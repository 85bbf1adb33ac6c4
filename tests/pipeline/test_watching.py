"""What an editing program writes beside the frames is noticed while the shoot is open."""

from __future__ import annotations

import os
from pathlib import Path

import pytest

from tests import photographs
from tests.pipeline.test_identity import Shoot
from tests.server import until
from winnow.api.desk import Desk
from winnow.core.marks import Decision
from winnow.demo.editor import edit
from winnow.pipeline.engine import wait_until_idle

pytestmark = pytest.mark.watching


@pytest.fixture
def folder(tmp_path: Path) -> Path:
    folder = tmp_path / "watched"
    for n, name in enumerate("abc"):
        photographs.save(folder / f"{name}.jpg", n, second=n)
    return folder


def edited(shoot: Shoot) -> set[str]:
    return {name for name, row in shoot.rows().items() if row["edited"]}


def test_what_comes_back_from_an_editor_is_noticed_and_its_marks_wait(desk: Desk, folder: Path) -> None:
    """Of a frame that the person marked and of one they did not: nothing is taken over behind their back."""
    shoot = Shoot(desk, folder)
    shoot.mark(2, "a.jpg")
    edit([folder / "a.jpg", folder / "b.jpg"], derive=True)
    until(lambda: edited(shoot) == {"a.jpg", "b.jpg"} and len(shoot.rows()) == 5)
    until(lambda: {n for n, row in shoot.rows().items() if row["incoming"]} == {"a.jpg", "b.jpg"})
    wait_until_idle(desk.engine)  # and put in their places
    rows = shoot.rows()
    assert list(rows) == ["a.jpg", "a-edit.tif", "b.jpg", "b-edit.tif", "c.jpg"]
    assert rows["a-edit.tif"]["original"] == rows["a.jpg"]["id"]
    assert {rows[name]["group"] for name in ("a.jpg", "a-edit.tif")} == {rows["a.jpg"]["group"]}
    assert not rows["a-edit.tif"]["lead"]
    assert shoot.ratings() == {"a.jpg": 2, "a-edit.tif": 0, "b.jpg": 0, "b-edit.tif": 0, "c.jpg": 0}
    shoot.list_again()  # now the person asks for it
    assert shoot.ratings()["b.jpg"] == 4 and shoot.ratings()["a.jpg"] == 2
    assert not any(row["incoming"] for row in shoot.rows().values())


def test_a_new_frame_brings_its_marks_and_a_gone_one_is_missed(desk: Desk, folder: Path) -> None:
    shoot = Shoot(desk, folder)
    photographs.save(folder / "d.jpg", 3, second=9)
    edit([folder / "d.jpg"])
    until(lambda: shoot.ratings().get("d.jpg") == 5)
    os.remove(folder / "c.jpg")
    until(lambda: "c.jpg" in shoot.rows("missing"))


def test_folders_are_watched_again_when_they_are_back(desk: Desk, folder: Path) -> None:
    """As a disk that is pulled out and put back."""
    shoot = Shoot(desk, folder)
    folder.rename(folder.with_name("away"))
    until(lambda: "cannot be read" in str(desk.engine.progress(shoot.id).message))
    folder.with_name("away").rename(folder)
    until(desk.engine.idle)
    (folder / "a-edit.tif").write_bytes((folder / "a.jpg").read_bytes())
    until(lambda: "a-edit.tif" in shoot.rows())
    assert {row["decision"] for row in shoot.rows().values()} == {Decision.UNDECIDED}


def test_who_comes_back_into_a_shoot_finds_it_read_and_watched_again(
    desk: Desk, folder: Path, tmp_path: Path
) -> None:
    """By the browser's Back: others have been opened meanwhile, and it has given way."""
    shoot = Shoot(desk, folder)
    for other in "1234":
        (tmp_path / other).mkdir()
        desk.open_folder(str(tmp_path / other))
    photographs.save(folder / "d.jpg", 3, second=9)
    desk.welcome(shoot.id)
    until(lambda: "d.jpg" in shoot.rows())
    photographs.save(folder / "e.jpg", 4, second=10)
    until(lambda: "e.jpg" in shoot.rows())
