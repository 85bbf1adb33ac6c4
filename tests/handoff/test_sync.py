"""Marks here against marks on disk: every case of a three-way comparison, settled, and taken back."""

from __future__ import annotations

import subprocess
from pathlib import Path
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.server import Server, until
from winnow.core.agreement import Source
from winnow.core.marks import UNMARKED, Field, Marks
from winnow.core.sync import Side, compare
from winnow.core.xmp_marks import XmpMarks

STARS = st.integers(0, 5)
TABLE = {
    # (here changed, disk changed, both say the same): what is asked. Three-way merge, after diff3.
    (False, False, True): None,
    (True, False, False): Side.OUT,
    (False, True, False): Side.IN,
    (True, True, True): None,
    (True, True, False): Side.BOTH,
}


@given(base=STARS, here=STARS, there=STARS, standing=st.booleans())
def test_three_sides(base: int, here: int, there: int, standing: bool) -> None:
    source = Source("a.xmp", "sidecar", "digest", "2026-01-01T00:00:00+00:00", XmpMarks(rating=there))
    own = {Field.RATING} if standing else set()
    found = compare([source], {"a.xmp": Marks(rating=base)}, Marks(rating=here), own)
    side = TABLE[here != base, there != base, here == there]
    if side is Side.BOTH and not standing:
        side = Side.IN  # nobody's mark stands here: it came from another file, or was taken back
    assert [(one.field, one.side) for one in found] == ([(Field.RATING, side)] if side else [])
    if found:
        assert (found[0].here, found[0].base, found[0].there) == (here, base, there)


def test_a_frame_that_no_file_speaks_of_goes_out() -> None:
    found = compare([], {}, Marks(rating=3, label="Retouch"), frozenset(Field))
    assert [(one.field, one.side, one.there) for one in found] == [
        (Field.RATING, Side.OUT, 0), (Field.LABEL, Side.OUT, None),
    ]  # fmt: skip
    assert compare([], {}, UNMARKED, ()) == []


class Synced:
    """A shoot on a server, and its sidecars as exiftool (Debian) reads and writes them."""

    def __init__(self, server: Server, folder: Path) -> None:
        self.server, self.folder = server, folder
        self.shoot = server.open(folder)
        self.frames = server.frames(self.shoot)

    def mark(self, number: int, **marks: object) -> None:
        ids = [self.frames[number]["id"]]
        self.server.post(f"/api/shoots/{self.shoot}/marks", {"frame_ids": ids, **marks})

    def sidecar(self, number: int) -> Path:
        return (self.folder / self.frames[number]["name"]).with_suffix(".xmp")

    def edit(self, number: int, *said: str) -> None:
        call = ["exiftool", "-q", "-overwrite_original", *said, self.sidecar(number)]
        subprocess.run(call, check=True)

    def stars_on_disk(self, number: int) -> str:
        call = ["exiftool", "-s3", "-XMP-xmp:Rating", self.sidecar(number)]
        return subprocess.run(call, capture_output=True, text=True, check=True).stdout.strip()

    def stars(self, number: int) -> int:
        return int(self.server.frames(self.shoot)[number]["rating"])

    def look(self, *frames: int) -> dict[tuple[int, str], dict[str, Any]]:
        wish = {"frames": [self.frames[number]["id"] for number in frames]}
        self.view = self.server.post(f"/api/shoots/{self.shoot}/sync", wish)
        numbers = {frame["id"]: number for number, frame in enumerate(self.frames)}
        return {(numbers[row["frame_id"]], row["field"]): row for row in self.view["rows"]}

    def settle(self, *takes: tuple[dict[str, Any], str], incoming: bool = True, outgoing: bool = True) -> Any:
        keys = ("frame_id", "field", "here", "there")
        wish = {
            "takes": [{key: row[key] for key in keys} | {"take": take} for row, take in takes],
            "incoming": incoming,
            "outgoing": outgoing,
        }
        settled = self.server.post(f"/api/shoots/{self.shoot}/sync/settle", wish)
        if settled["plan"]:
            self.run(settled["plan"]["id"], "apply")
        return settled

    def run(self, plan: int, what: str) -> None:
        self.server.post(f"/api/plans/{plan}/{what}")
        until(lambda: not self.server.get(f"/api/plans/{plan}")["running"])


@pytest.fixture
def synced(lone_server: Server, shoot_folder: Path) -> Synced:
    """Four frames with sidecars of two stars, on which both sides agreed, then changed: 0 here, 1 there, 2 on both
    sides otherwise, 3 on both alike. Reading the folder again takes nothing over unasked."""
    shoot = Synced(lone_server, shoot_folder)
    lone_server.request("PUT", "/api/settings", {"takes_in": False})
    for number in range(4):
        shoot.mark(number, rating=2)
    shoot.settle()
    assert [shoot.stars_on_disk(number) for number in range(4)] == ["2"] * 4 and shoot.look() == {}
    shoot.mark(0, rating=5)
    shoot.edit(1, "-XMP-xmp:Rating=4")
    shoot.mark(2, rating=1)
    shoot.edit(2, "-XMP-xmp:Rating=3")
    shoot.mark(3, rating=4)
    shoot.edit(3, "-XMP-xmp:Rating=4")
    until(lambda: lone_server.get(f"/api/shoots/{shoot.shoot}/view")["tally"]["incoming"] == 2)
    lone_server.post(f"/api/shoots/{shoot.shoot}/refresh")
    assert [shoot.stars(number) for number in range(4)] == [5, 2, 1, 4]
    return shoot


def test_settled_by_the_person_and_taken_back_on_disk_too(synced: Synced) -> None:
    rows = synced.look()
    assert {key: row["side"] for key, row in rows.items()} == {
        (0, "rating"): "out", (1, "rating"): "in", (2, "rating"): "both",
    }  # fmt: skip
    both = rows[2, "rating"]
    assert (both["here_said"], both["base_said"], both["there_said"]) == ("1 star", "2 stars", "3 stars")
    assert both["file"] == "WIN_0003.xmp" and both["here_by"] == "person" and both["there_at"]
    assert (synced.view["frames"], synced.view["agree"]) == (6, 3)
    assert set(synced.look(0, 3)) == {(0, "rating")}  # of a scope alone
    before = {number: synced.sidecar(number).read_bytes() for number in range(4)}
    settled = synced.settle((both, "ours"))
    assert (settled["taken"], settled["changed"]) == (1, 0)
    assert [synced.stars(n) for n in range(4)] == [5, 4, 1, 4]
    assert [synced.stars_on_disk(n) for n in range(4)] == ["5", "4", "1", "4"]
    assert (
        synced.look() == {}
        and synced.server.get(f"/api/shoots/{synced.shoot}/view")["tally"]["incoming"] == 0
    )
    # Taken back: what came in by the history, what went out by its plan; the files to the byte.
    synced.server.step(synced.shoot, "undo")
    synced.run(settled["plan"]["id"], "reverse")
    assert {number: synced.sidecar(number).read_bytes() for number in range(4)} == before
    assert [synced.stars(n) for n in range(4)] == [5, 2, 1, 4]
    assert {key: row["side"] for key, row in synced.look().items()} == {
        k: row["side"] for k, row in rows.items()
    }


def test_what_a_plan_wrote_over_by_wish_waits_no_more(synced: Synced) -> None:
    def waiting() -> int:
        return int(synced.server.get(f"/api/shoots/{synced.shoot}/view")["tally"]["incoming"])

    wish = {"kind": "write-sidecars", "all_mine": True}
    plan = synced.server.post(f"/api/shoots/{synced.shoot}/plans", wish)["id"]
    assert waiting() == 2
    synced.run(plan, "apply")
    assert [synced.stars_on_disk(n) for n in (1, 2)] == ["2", "1"] and waiting() == 0
    synced.run(plan, "reverse")
    assert [synced.stars_on_disk(n) for n in (1, 2)] == ["4", "3"] and waiting() == 2


def test_new_sidecars_are_called_as_is_set(lone_server: Server, shoot_folder: Path) -> None:
    """Those that are there keep their names."""
    shoot = Synced(lone_server, shoot_folder)
    shoot.mark(0, rating=2)
    shoot.settle()
    lone_server.request("PUT", "/api/settings", {"full_sidecar_names": True})
    shoot.mark(0, rating=3)
    shoot.mark(1, rating=3)
    shoot.settle()
    assert sorted(path.name for path in shoot_folder.rglob("*.xmp")) == ["WIN_0001.xmp", "WIN_0002.JPG.xmp"]
    assert shoot.look() == {}


def test_a_frame_with_two_sidecars_has_its_marks_in_both(lone_server: Server, shoot_folder: Path) -> None:
    """As where two programs name them differently: each reads its own."""
    shoot = Synced(lone_server, shoot_folder)
    shoot.mark(0, rating=2)
    shoot.settle()
    second = shoot.sidecar(0).with_name("WIN_0001.JPG.xmp")
    second.write_bytes(shoot.sidecar(0).read_bytes())
    lone_server.post(f"/api/shoots/{shoot.shoot}/refresh")
    until(lambda: len(lone_server.get(f"/api/frames/{shoot.frames[0]['id']}")["files"]) == 3)
    shoot.mark(0, rating=5)
    before = {path.name: path.read_bytes() for path in (shoot.sidecar(0), second)}
    row = shoot.look()[0, "rating"]
    settled = shoot.settle(*([(row, "ours")] if row["side"] == "both" else []))
    assert shoot.look() == {} and shoot.stars_on_disk(0) == "5"
    read = subprocess.run(["exiftool", "-s3", "-XMP-xmp:Rating", second], capture_output=True, text=True)
    assert read.stdout.strip() == "5"
    shoot.run(settled["plan"]["id"], "reverse")
    assert {path.name: path.read_bytes() for path in (shoot.sidecar(0), second)} == before


def test_a_turn_waits_until_it_is_known_how_the_picture_is_stored(
    lone_server: Server, shoot_folder: Path
) -> None:
    """A sidecar says how a picture is to be turned from how it is stored: of a damaged one nobody knows."""
    whole = next(shoot_folder.rglob("WIN_0001.JPG"))
    content = whole.read_bytes()
    whole.write_bytes(b"no picture")
    shoot = Synced(lone_server, shoot_folder)
    number = next(n for n, frame in enumerate(shoot.frames) if frame["name"].endswith(whole.name))

    def unwritten() -> int:
        lone_server.post(f"/api/shoots/{shoot.shoot}/refresh")
        return len(lone_server.get(f"/api/shoots/{shoot.shoot}/view?show=unwritten%20marks")["ids"])

    shoot.mark(number, turn="right")
    assert shoot.look() == {} and unwritten() == 0
    shoot.mark(number, rating=2)
    assert unwritten() == 1
    shoot.settle()
    assert shoot.look() == {} and unwritten() == 0
    whole.write_bytes(content)  # copied from the card again
    until(lambda: unwritten() == 1)
    shoot.settle()
    assert shoot.look() == {} and unwritten() == 0
    call = ["exiftool", "-s3", "-n", "-XMP-tiff:Orientation", shoot.sidecar(number)]
    assert subprocess.run(call, capture_output=True, text=True, check=True).stdout.strip() == "6"


def test_later_means_that_both_stay(synced: Synced) -> None:
    both = synced.look()[2, "rating"]
    settled = synced.settle((both, "later"), incoming=False)
    assert settled["taken"] == 0 and synced.stars_on_disk(0) == "5"
    assert (synced.stars(2), synced.stars_on_disk(2)) == (1, "3")
    assert {key: row["side"] for key, row in synced.look().items()} == {
        (1, "rating"): "in",
        (2, "rating"): "both",
    }
    synced.settle((both, "theirs"), incoming=False, outgoing=False)
    assert synced.stars(2) == 3 and set(synced.look()) == {(1, "rating")}


def test_what_changed_since_it_was_shown_is_left(synced: Synced) -> None:
    both = synced.look()[2, "rating"]
    synced.edit(2, "-XMP-xmp:Rating=5")
    assert synced.settle((both, "ours"))["changed"] == 1
    assert (synced.stars(2), synced.stars_on_disk(2)) == (1, "5")


def test_a_property_changed_on_one_side_only_is_taken_over_at_the_next_opening(synced: Synced) -> None:
    """As long as the person has not switched that off."""
    synced.server.request("PUT", "/api/settings", {"takes_in": True})
    synced.server.post(f"/api/shoots/{synced.shoot}/refresh")
    until(lambda: synced.stars(1) == 4)
    assert synced.stars(2) == 1 and set(synced.look()) == {(0, "rating"), (2, "rating")}
