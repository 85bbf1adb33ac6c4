"""Marks that other programs left: read in where no mark of a person stands, and never mistaken."""

from __future__ import annotations

import os
import subprocess
from pathlib import Path
from typing import Any

import pytest

from tests import photographs
from tests.disks import small_disk
from tests.pipeline.test_identity import Shoot
from winnow.api.desk import Desk
from winnow.core.group_edits import Word
from winnow.core.marks import Decision, Marks
from winnow.core.xmp_marks import XmpMarks, to_xmp
from winnow.formats import xmp
from winnow.handoff import apply as applying
from winnow.store import marks
from winnow.store.plans import PlanKind, PlanState

NOW = "2026-10-17T20:00:00.000+00:00"


@pytest.fixture
def folder(tmp_path: Path) -> Path:
    folder = tmp_path / "marked"
    for n, name in enumerate("abc"):
        photographs.save(folder / f"{name}.jpg", n, second=n)
    return folder


def packet(rating: int | None = None, **more: str) -> bytes:
    return xmp.write_marks(None, XmpMarks(rating=rating, **more))  # type: ignore[arg-type]


def undo(shoot: Shoot) -> None:
    with shoot.desk.database.transaction() as connection:
        marks.undo(connection, shoot.id, "person", NOW)


def test_an_undone_mark_does_not_block_what_a_file_says(desk: Desk, folder: Path) -> None:
    shoot = Shoot(desk, folder)
    shoot.mark(2, "a.jpg", "b.jpg")
    undo(shoot)
    shoot.mark(2, "b.jpg")
    with desk.database.transaction() as connection:
        said = {shoot.rows()["c.jpg"]["id"]: Word(None)}
        marks.set_words(connection, shoot.id, said, actor="person", title="split", now=NOW)  # type: ignore[arg-type]
    for name in "abc":
        (folder / f"{name}.xmp").write_bytes(packet(5))
    shoot.list_again()
    assert shoot.ratings() == {"a.jpg": 5, "b.jpg": 2, "c.jpg": 5}
    assert "newer than your marks" in str(shoot.rows()["b.jpg"]["note"])


def test_newer_is_a_matter_of_content_not_of_clocks(desk: Desk, folder: Path) -> None:
    """A sidecar written anew with what it said before, by a clock that is ahead, says nothing new."""
    (folder / "a.xmp").write_bytes(packet(4))
    shoot = Shoot(desk, folder)
    shoot.mark(2, "a.jpg")
    (folder / "a.xmp").write_bytes(packet(4) + b"\n")
    os.utime(folder / "a.xmp", (4e9, 4e9))
    shoot.list_again()
    assert shoot.rows()["a.jpg"]["rating"] == 2 and shoot.rows()["a.jpg"]["note"] is None
    (folder / "a.xmp").write_bytes(packet(1))
    os.utime(folder / "a.xmp", (1e9, 1e9))  # and one that is behind may
    shoot.list_again()
    assert shoot.rows()["a.jpg"]["rating"] == 2 and "1 star." in str(shoot.rows()["a.jpg"]["note"])


def test_development_settings_alone_do_not_reset_stars(desk: Desk, folder: Path) -> None:
    subprocess.run(
        ["exiftool", "-q", "-overwrite_original", "-XMP-xmp:Rating=4", folder / "a.jpg"], check=True
    )
    shoot = Shoot(desk, folder)
    assert shoot.ratings()["a.jpg"] == 4
    (folder / "a.xmp").write_bytes(
        b'<x:xmpmeta xmlns:x="adobe:ns:meta/"><rdf:RDF xmlns:rdf="http://www.w3.org/1999/02/22-rdf-syntax-ns#">'
        b'<rdf:Description rdf:about="" xmlns:dev="urn:example:dev/" dev:Exposure="+0.5"/></rdf:RDF></x:xmpmeta>'
    )
    shoot.list_again()
    assert shoot.ratings()["a.jpg"] == 4


@pytest.mark.parametrize("encoding", ["utf-16-le", "utf-16-be", "utf-8-sig", "utf-16", "utf-32"])
def test_sidecars_in_any_encoding_of_unicode(desk: Desk, folder: Path, encoding: str) -> None:
    """ISO 16684-1 allows UTF-8, UTF-16 and UTF-32; exiftool agrees on what is written back."""
    text = packet(3, label="Été").decode()
    mark = "\ufeff" if encoding.endswith(("le", "be")) else ""
    head = f'<?xml version="1.0" encoding="{encoding[:6].upper()}"?>\n' if "16" in encoding else ""
    (folder / "a.xmp").write_bytes((mark + head + text).encode(encoding))
    shoot = Shoot(desk, folder)
    row = shoot.rows()["a.jpg"]
    assert (row["rating"], row["label"], row["note"]) == (3, "Été", None)
    shoot.mark(1, "a.jpg")
    assert shoot.apply(shoot.plan(PlanKind.WRITE_SIDECARS)) is PlanState.APPLIED
    read = ["exiftool", "-s3", "-XMP-xmp:Rating", "-XMP-xmp:Label", folder / "a.xmp"]
    assert subprocess.run(read, capture_output=True, text=True).stdout.split() == ["1", "Été"]


def test_one_odd_sidecar_leaves_the_others_alone(desk: Desk, folder: Path) -> None:
    odd = os.fsencode(folder) + b"/caf\xe9"
    Path(os.fsdecode(odd + b".jpg")).write_bytes((folder / "b.jpg").read_bytes())
    Path(os.fsdecode(odd + b".xmp")).write_bytes(b"\xff\xfe<\x00broken")
    (folder / "a.xmp").write_bytes(packet(5, label="Album"))
    (folder / "b.xmp").write_bytes(packet(2).replace(b"</x:xmpmeta>", b"&#1;</x:xmpmeta>"))
    (folder / "c.xmp").write_bytes(
        packet(1).replace(b"<rdf:Description", b'<rdf:Description xmp:Label="two&#10;lines"', 1)
    )
    shoot = Shoot(desk, folder)
    rows = shoot.rows()
    assert (rows["a.jpg"]["rating"], rows["a.jpg"]["label"]) == (5, "Album")
    assert "b.xmp cannot be read" in str(rows["b.jpg"]["note"])
    assert (rows["c.jpg"]["rating"], rows["c.jpg"]["label"]) == (1, "two lines")
    assert "caf\ufffd.xmp cannot be read" in str(rows["caf\ufffd.jpg"]["note"])
    assert all(row["problem"] is None and row["stage"] == 3 for row in rows.values())


def test_five_stars_of_another_program_stay_five(desk: Desk, folder: Path) -> None:
    """The case that was lost: rated here and there since both sides agreed, and written over unasked."""
    shoot = Shoot(desk, folder)
    shoot.mark(1, "a.jpg")
    shoot.apply(shoot.plan(PlanKind.WRITE_SIDECARS))
    subprocess.run(
        ["exiftool", "-q", "-overwrite_original", "-XMP-xmp:Rating=5", folder / "a.xmp"], check=True
    )
    shoot.mark(2, "a.jpg")
    plan_id = shoot.plan(PlanKind.WRITE_SIDECARS)
    shown = shoot.conflicts(plan_id)
    assert [(c["field"], c["ours"], c["theirs"], c["mine"]) for c in shown] == [("rating", 2, 5, False)]
    assert all(c["ours_at"] and c["theirs_at"] for c in shown)
    with pytest.raises(applying.StoppedError, match="nothing to do"):
        shoot.apply(plan_id)
    assert xmp.read_marks((folder / "a.xmp").read_bytes()).rating == 5
    # Read in again it is still theirs, and still a conflict: nobody has agreed to anything.
    shoot.list_again()
    assert shoot.ratings()["a.jpg"] == 2 and "5 stars" in str(shoot.rows()["a.jpg"]["note"])
    plan_id = shoot.plan(PlanKind.WRITE_SIDECARS)
    assert len(shoot.conflicts(plan_id)) == 1
    # The person chooses theirs by marking, or their own in the plan.
    assert shoot.apply(shoot.plan(PlanKind.WRITE_SIDECARS, all_mine=True)) is PlanState.APPLIED
    assert xmp.read_marks((folder / "a.xmp").read_bytes()).rating == 2
    again = shoot.plan(PlanKind.WRITE_SIDECARS)
    assert shoot.conflicts(again) == []


def test_a_reversal_takes_the_agreement_back_too(desk: Desk, folder: Path) -> None:
    shoot = Shoot(desk, folder)
    (folder / "a.xmp").write_bytes(packet(4))
    shoot.list_again()
    shoot.mark(2, "a.jpg")
    plan_id = shoot.plan(PlanKind.WRITE_SIDECARS)
    shoot.apply(plan_id)
    assert applying.reverse(desk.database, plan_id) is PlanState.REVERSED
    shoot.list_again()
    assert shoot.rows()["a.jpg"]["rating"] == 2 and shoot.rows()["a.jpg"]["note"] is None
    assert shoot.conflicts(shoot.plan(PlanKind.WRITE_SIDECARS)) == []


def test_frames_that_nobody_marked_here_are_never_written_over(desk: Desk, folder: Path) -> None:
    shoot = Shoot(desk, folder)
    shoot.mark(3, "a.jpg")
    (folder / "b.xmp").write_bytes(packet(5, label="Theirs"))  # appeared since the listing
    before = (folder / "b.xmp").read_bytes()
    assert shoot.apply(shoot.plan(PlanKind.WRITE_SIDECARS)) is PlanState.APPLIED
    assert (folder / "b.xmp").read_bytes() == before
    assert {path.name for path in folder.glob("*.xmp")} == {"a.xmp", "b.xmp"}


def test_a_mark_taken_back_is_taken_back_in_the_sidecar(desk: Desk, folder: Path) -> None:
    shoot = Shoot(desk, folder)
    shoot.decide(Decision.KEEP, "a.jpg")
    shoot.apply(shoot.plan(PlanKind.WRITE_SIDECARS))
    undo(shoot)
    assert shoot.apply(shoot.plan(PlanKind.WRITE_SIDECARS)) is PlanState.APPLIED
    assert xmp.read_marks((folder / "a.xmp").read_bytes()) == to_xmp(Marks())


def test_what_was_agreed_comes_back_from_another_disk(desk: Desk, folder: Path, tmp_path: Path) -> None:
    """Moved to another disk with the marks in it and back again, a sidecar is as well known as before."""
    (folder / "a.xmp").write_bytes(packet(4))
    shoot = Shoot(desk, folder)
    shoot.mark(2, "a.jpg")
    shoot.decide(Decision.KEEP, "a.jpg")
    with small_disk(tmp_path / "disk") as disk:
        plan_id = shoot.plan(PlanKind.MOVE_KEEPERS, disk / "keepers")
        assert shoot.apply(plan_id) is PlanState.APPLIED
        assert xmp.read_marks((disk / "keepers" / "a.xmp").read_bytes()).rating == 2
        assert applying.reverse(desk.database, plan_id) is PlanState.REVERSED
    shoot.list_again()
    assert shoot.rows()["a.jpg"]["note"] is None
    plan_id = shoot.plan(PlanKind.WRITE_SIDECARS)
    assert shoot.conflicts(plan_id) == [] and shoot.apply(plan_id) is PlanState.APPLIED
    assert xmp.read_marks((folder / "a.xmp").read_bytes()).rating == 2


def test_a_sidecar_written_while_it_is_being_read_is_read_again(
    desk: Desk, folder: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """What was read before says what it said then: no mark goes back to that."""
    (folder / "a.xmp").write_bytes(packet(2))
    shoot = Shoot(desk, folder)
    shoot.mark(5, "a.jpg")
    (folder / "a.xmp").write_bytes(packet(2) + b"\n")
    keep, plan = desk.engine._intake.heads, shoot.plan(PlanKind.WRITE_SIDECARS)

    def late(*read: Any) -> None:
        monkeypatch.undo()
        assert shoot.apply(plan) is PlanState.APPLIED
        keep(*read)

    monkeypatch.setattr(desk.engine._intake, "heads", late)
    shoot.list_again()
    assert xmp.Packet((folder / "a.xmp").read_bytes()).marks.rating == 5
    assert shoot.ratings()["a.jpg"] == 5 and not shoot.rows()["a.jpg"]["incoming"]
    shoot.list_again()
    assert shoot.ratings() == {"a.jpg": 5, "b.jpg": 0, "c.jpg": 0}
