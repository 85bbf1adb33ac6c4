"""Copies from a card: two at once, verified, skipping what is here, as bags that another program accepts.

Checked against `bagit` (the Library of Congress's implementation of RFC 8493, from PyPI) and coreutils' `sha256sum`.
"""

from __future__ import annotations

import os
import subprocess
import sys
import time
from collections import Counter
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

import bagit
import pytest

from tests import photographs
from tests.commands import command, winnow
from tests.disks import fill, small_disk
from tests.faults.scene import contents
from winnow.core.file_names import Naming, Per
from winnow.core.history import BatchKind
from winnow.core.marks import Decision, Field
from winnow.core.sorting import Into
from winnow.demo.card import Card
from winnow.formats import bag, xmp
from winnow.handoff import apply as applying
from winnow.handoff.draft import PlanError, Wish
from winnow.handoff.plan import make_plan
from winnow.handoff.report import Report, report_on
from winnow.handoff.verify import verify
from winnow.pipeline.cache import Cache
from winnow.pipeline.cards import Slots
from winnow.pipeline.listing import list_shoot
from winnow.pipeline.reading import at_once
from winnow.store import frames, marks, plans, shoots
from winnow.store.database import Database
from winnow.store.plans import PlanKind, PlanState

NOW = "2026-10-18T21:00:00.000+00:00"


class Arrival:
    """A card with ten frames, three of them with RAW files, in its slot; a database; two disks to copy to."""

    def __init__(self, folder: Path) -> None:
        frames_of = folder / "frames"
        for n in range(10):
            path = frames_of / f"{100 + n // 6}CARDS" / f"CRD_{n:04d}.JPG"
            photographs.save(path, n, taken=f"2026:10:{17 + n // 5} 16:0{n % 5}:00")
            if n % 4 == 1:
                path.with_suffix(".NEF").write_bytes(bytes([n]) * 9000)
        self.card = Card(folder / "volumes" / "CARD A", frames_of)
        self.source = self.card.insert()
        self.database = Database(folder / "data" / "winnow.sqlite")
        self.cache = Cache(folder / "data" / "cache")
        self.first, self.second = folder / "one" / "Evening", folder / "two" / "Evening"
        for disk in (self.first.parent, self.second.parent):
            disk.mkdir()
        self.before = contents(self.source)

    def plan(self, source: Path | None = None, target: Path | None = None, **options: Any) -> int:
        target = target or self.first
        with self.database.transaction() as connection:
            shoot_id = shoots.open_folder(connection, target, NOW, hidden=True)
        wish = Wish(
            PlanKind.IMPORT, str(target), keep_folders=True, source=str(source or self.source), **options
        )
        return make_plan(self.database, shoot_id, wish, NOW)

    def apply(self, plan_id: int) -> PlanState:
        return applying.apply(self.database, plan_id)

    def report(self, plan_id: int) -> Report:
        return report_on(plans.steps(self.database.connection(), plan_id))

    def error(self, plan_id: int) -> str:
        plan = plans.get(self.database.connection(), plan_id)
        assert plan
        return plan.error or ""

    def open(self, folder: Path) -> list[int]:
        """Opens a folder as a shoot, as far as listing it; returns its frames."""
        with self.database.transaction() as connection:
            shoot_id = shoots.open_folder(connection, folder, NOW)
        shoot = shoots.get(self.database.connection(), shoot_id)
        assert shoot
        list_shoot(self.database, self.cache, at_once, shoot)
        return [row["id"] for row in frames.summaries(self.database.connection(), shoot_id)]


@pytest.fixture
def arrival(tmp_path: Path) -> Arrival:
    return Arrival(tmp_path)


def sums(folder: Path) -> Counter[str]:
    return Counter(digest for path, digest in contents(folder).items() if not path.endswith(".txt"))


def test_two_copies_are_bags_that_others_accept_and_the_card_is_read_once_for_both(arrival: Arrival) -> None:
    opened: Counter[str] = Counter()

    def note(event: str, arguments: tuple[object, ...]) -> None:
        if event == "open" and str(arguments[0]).startswith(str(arrival.source)) and counting:
            opened[str(arguments[0])] += 1

    counting = False
    sys.addaudithook(note)
    plan_id = arrival.plan(second=str(arrival.second))
    counting = True
    assert arrival.apply(plan_id) is PlanState.APPLIED
    counting = False
    # once for both copies, and once more to be held against them
    assert {opened[path] for path in arrival.before} == {2}
    for target in (arrival.first, arrival.second):
        assert bagit.Bag(str(target)).validate()
        checked = subprocess.run(
            ["sha256sum", "--check", "--strict", "--quiet", bag.MANIFEST], cwd=target, capture_output=True
        )
        assert checked.returncode == 0
        assert sums(target) == Counter(arrival.before.values())
        assert (target / "data" / "100CARDS" / "CRD_0001.NEF").exists()
        assert "26 copies" in next(target.glob("copied *.txt")).read_text()
    assert contents(arrival.source) == arrival.before
    assert applying.reverse(arrival.database, plan_id) is PlanState.REVERSED
    assert not arrival.first.exists()
    assert not arrival.second.exists()


def test_what_is_here_already_is_told_by_content_and_not_copied(arrival: Arrival, tmp_path: Path) -> None:
    assert arrival.apply(arrival.plan(second=str(arrival.second))) is PlanState.APPLIED
    again = arrival.plan()  # also before it was listed
    assert len(arrival.report(again).skipped) == 13
    arrival.open(arrival.first)
    again = arrival.plan()
    found = arrival.report(again)
    assert (len(found.skipped), found.waiting) == (13, 0)
    assert dict(found.skipped)[str(arrival.source / "100CARDS" / "CRD_0003.JPG")] == str(
        arrival.first / "data" / "100CARDS" / "CRD_0003.JPG"
    )
    blocked = plans.get(arrival.database.connection(), again)
    assert blocked and blocked.summary["blocked"] == "There is nothing to do."
    # one went from the disk, under another name one is here, one is new: by content, not by name
    (arrival.first / "data" / "100CARDS" / "CRD_0000.JPG").unlink()
    more = tmp_path / "more" / "100CARDS"
    photographs.save(more / "CRD_0003.JPG", 77, taken="2026:10:19 10:00:00")
    (more / "CRD_0050.JPG").write_bytes((arrival.source / "100CARDS" / "CRD_0004.JPG").read_bytes())
    (more / "CRD_0060.JPG").write_bytes((arrival.source / "100CARDS" / "CRD_0000.JPG").read_bytes())
    other = arrival.plan(more.parent)
    assert [Path(path).name for path, _ in arrival.report(other).skipped] == ["CRD_0050.JPG"]
    assert arrival.apply(other) is PlanState.APPLIED
    # another card with the same names: nothing is overwritten, and the bag holds both
    there = arrival.first / "data" / "100CARDS"
    assert {"CRD_0003.JPG", "CRD_0003-2.JPG", "CRD_0060.JPG"} <= {path.name for path in there.iterdir()}
    assert len(bag.manifest_of(arrival.first)) == 15


def test_wrong_bytes_that_the_card_gave_once_are_copied_again(arrival: Arrival) -> None:
    plan_id = arrival.plan(second=str(arrival.second))
    arrival.card.misread_once("CRD_0002.JPG")
    assert arrival.apply(plan_id) is PlanState.APPLIED
    assert sums(arrival.first) == sums(arrival.second) == Counter(arrival.before.values())
    remarks = [Path(file.source).name for file in arrival.report(plan_id).copied if file.remark]
    assert remarks == ["CRD_0002.JPG", "CRD_0002.JPG"]


def test_a_file_that_the_card_cannot_give_does_not_hold_up_the_others(arrival: Arrival) -> None:
    plan_id = arrival.plan()
    gone = arrival.source / "100CARDS" / "CRD_0003.JPG"
    gone.parent.chmod(0o755)
    gone.unlink()
    assert arrival.apply(plan_id) is PlanState.APPLIED
    failed = arrival.report(plan_id).failed
    assert [Path(path).name for path, _ in failed] == ["CRD_0003.JPG"]
    assert len(bag.manifest_of(arrival.first)) == 12


def test_a_card_pulled_out_is_gone_on_with_when_it_is_back_and_no_other_one(arrival: Arrival) -> None:
    plan_id = arrival.plan(second=str(arrival.second))
    arrival.card.pull_at_read(7)
    assert arrival.apply(plan_id) is PlanState.STOPPED
    assert "cannot be reached" in arrival.error(plan_id)
    assert arrival.apply(plan_id) is PlanState.STOPPED
    other = Card(arrival.card.slot, arrival.card.frames.with_name("others"))
    for path in arrival.card.frames.rglob("*.*"):
        changed = other.frames / path.relative_to(arrival.card.frames)
        changed.parent.mkdir(parents=True, exist_ok=True)
        changed.write_bytes(path.read_bytes() + b"\0")
    other.insert()
    assert arrival.apply(plan_id) is PlanState.STOPPED
    assert "another card" in arrival.error(plan_id)
    other.pull()
    Card(arrival.card.slot, arrival.card.frames).insert()
    assert arrival.apply(plan_id) is PlanState.APPLIED
    assert bagit.Bag(str(arrival.first)).validate() and bagit.Bag(str(arrival.second)).validate()
    assert sums(arrival.first) == sums(arrival.second) == Counter(arrival.before.values())


def test_a_full_second_disk_is_named_and_gone_on_with(arrival: Arrival, tmp_path: Path) -> None:
    with small_disk(tmp_path / "small", 100) as disk:
        plan_id = arrival.plan(second=str(disk / "Evening"))
        filled = False

        def report(done: int, total: int) -> None:
            nonlocal filled
            if done == 6 and not filled:
                filled = True
                fill(disk)

        assert applying.apply(arrival.database, plan_id, report=report) is PlanState.STOPPED
        assert str(disk) in arrival.error(plan_id) and "is full" in arrival.error(plan_id)
        (disk / "filler").unlink()
        assert arrival.apply(plan_id) is PlanState.APPLIED
        assert sums(disk / "Evening") == sums(arrival.first) == Counter(arrival.before.values())


def test_marks_made_on_the_card_come_along_as_sidecars_and_the_card_stays_as_it_was(arrival: Arrival) -> None:
    ids = arrival.open(arrival.source)
    shoot_id = frames.owners(arrival.database.connection(), ids)[ids[0]]
    with arrival.database.transaction() as connection:
        wanted = {ids[2]: {Field.DECISION: Decision.KEEP.value, Field.RATING: 3}}
        marks.set_marks(connection, shoot_id, wanted, kind=BatchKind.MARK, actor="person", title="", now=NOW)
    assert arrival.apply(arrival.plan(second=str(arrival.second))) is PlanState.APPLIED
    for target in (arrival.first, arrival.second):
        written = list(target.rglob("*.xmp"))
        assert [path.name for path in written] == ["CRD_0002.xmp"]
        assert xmp.read_marks(written[0].read_bytes()).rating == 3
        assert bagit.Bag(str(target)).validate()
    assert contents(arrival.source) == arrival.before


def test_names_and_folders_follow_what_the_camera_wrote(arrival: Arrival) -> None:
    naming = Naming("{subject}_{date:%m%d}_{counter:3}", {"subject": "kiln"})
    plan_id = arrival.plan(naming=naming, into=Into.DAY)
    assert arrival.apply(plan_id) is PlanState.APPLIED
    there = {str(path.relative_to(arrival.first / "data")) for path in arrival.first.rglob("kiln*")}
    assert {
        "2026-10-17/100CARDS/kiln_1017_002.JPG",
        "2026-10-17/100CARDS/kiln_1017_002.NEF",
        "2026-10-18/101CARDS/kiln_1018_007.JPG",
    } <= there
    for wish in (
        {"into": Into.LABEL},
        {"second": str(arrival.first / "x")},
        {"target": arrival.source / "x"},
    ):
        with pytest.raises(PlanError):
            arrival.plan(**wish)


def test_films_and_sound_come_along_too(arrival: Arrival) -> None:
    """Who empties the card afterwards must not lose what is no frame; a spoken note keeps to its picture."""
    folder = arrival.source / "100CARDS"
    folder.chmod(0o755)
    (folder / "CRD_0003.WAV").write_bytes(b"spoken" * 100)
    (folder / "MOV_0100.MP4").write_bytes(b"film" * 1000)
    (folder / ".hidden").write_bytes(b"the system's")
    plan_id = arrival.plan(naming=Naming("kiln_{counter:2}"), second=str(arrival.second))
    made = plans.get(arrival.database.connection(), plan_id)
    assert made and "2 other files" in made.summary["warnings"][0] and made.summary["frames"] == 10
    assert arrival.apply(plan_id) is PlanState.APPLIED
    for target in (arrival.first, arrival.second):
        there = {path.name for path in (target / "data" / "100CARDS").iterdir()}
        assert {"kiln_04.JPG", "kiln_04.WAV", "MOV_0100.MP4"} <= there and ".hidden" not in there
        assert bagit.Bag(str(target)).validate()
    assert "nothing to do" in plans.get(arrival.database.connection(), arrival.plan()).summary["blocked"]  # type: ignore[union-attr]


def test_verify_finds_one_changed_byte_and_says_what_is_gone(arrival: Arrival) -> None:
    assert arrival.apply(arrival.plan()) is PlanState.APPLIED

    def run() -> subprocess.CompletedProcess[str]:
        return command("verify", arrival.first / "data" / "100CARDS")

    assert run().returncode == 0
    changed = arrival.first / "data" / "100CARDS" / "CRD_0004.JPG"
    content = bytearray(changed.read_bytes())
    content[len(content) // 2] ^= 1
    stat = changed.stat()
    changed.chmod(0o644)
    changed.write_bytes(content)
    os.utime(changed, ns=(stat.st_atime_ns, stat.st_mtime_ns))
    (changed.with_name("CRD_0005.JPG")).unlink()
    (changed.with_name("CRD_0004.xmp")).write_bytes(b"a sidecar that came since")
    found = verify(arrival.first)
    assert (found.sound, found.changed, found.missing) == (
        11,
        ["data/100CARDS/CRD_0004.JPG"],
        ["data/100CARDS/CRD_0005.JPG"],
    )
    assert found.more == ["data/100CARDS/CRD_0004.xmp"]
    told = run()
    assert told.returncode == 1
    assert "CRD_0004.JPG" in told.stdout and "CRD_0005.JPG" in told.stdout
    nothing = command("verify", "/")
    assert nothing.returncode == 2 and bag.MANIFEST in nothing.stderr


def test_what_lies_beside_a_picture_comes_along_and_a_sidecar_may_change_later(
    arrival: Arrival, tmp_path: Path
) -> None:
    disk = tmp_path / "disk" / "A"
    photographs.save(disk / "CRD_0001.JPG")
    for ending in ("xmp", "WAV", "JPG.steps"):
        (disk / f"CRD_0001.{ending}").write_bytes(b"<x/>")
    with pytest.raises(PlanError, match="scenes and labels are not known yet"):
        arrival.plan(disk.parent, naming=Naming("k_{counter:2}", per=Per.SCENE))
    assert arrival.apply(arrival.plan(disk.parent, naming=Naming("k_{counter:2}"))) is PlanState.APPLIED
    arrived = arrival.first / "data" / "A"
    assert {path.name for path in arrived.iterdir()} == {"k_01.JPG", "k_01.xmp", "k_01.WAV", "k_01.JPG.steps"}
    (arrived / "k_01.xmp").chmod(0o644)
    (arrived / "k_01.xmp").write_bytes(b"<y/>")
    found = verify(arrival.first)
    assert found.whole and found.sidecars == ["data/A/k_01.xmp"]


def test_the_same_without_a_screen(arrival: Arrival, tmp_path: Path) -> None:
    def run(*arguments: str) -> tuple[int, str]:
        return winnow(*arguments, "--data", tmp_path / "data")

    bring = ("import", str(arrival.source), "--to", str(arrival.first), "--second", str(arrival.second))
    code, said = run(*bring, "--dry-run")
    assert code == 0 and "10 frames, 26 files" in said
    assert not arrival.first.exists()
    assert run(*bring)[0] == 0
    assert bagit.Bag(str(arrival.second)).validate()
    code, said = run(*bring)
    assert code == 0 and "0 frames, 0 files, 0 bytes, 13 files here already" in said
    assert run("import", str(tmp_path / "nowhere"), "--to", str(arrival.first))[0] == 2
    assert "no shoot that is known" in run("rename", str(tmp_path / "nowhere"), "--pattern", "x")[1]
    arrival.open(arrival.first)
    name = ("rename", str(arrival.first), "--pattern", "{subject}_{counter:2}", "--word", "subject=kiln")
    code, said = run(*name, "--dry-run")
    assert code == 0 and "10 frames, 23 files" in said and not list(arrival.first.rglob("kiln*"))
    assert run(*name)[0] == 0
    assert len(list(arrival.first.rglob("kiln_*.JPG"))) == 10
    assert run("rename", str(arrival.first), "--pattern", "{subject}")[0] == 2


def test_bags_of_others_and_cards_are_left_alone(arrival: Arrival, tmp_path: Path) -> None:
    theirs = tmp_path / "theirs"
    (theirs / "data").mkdir(parents=True)
    (theirs / "data" / "a.txt").write_bytes(b"a")
    bagit.make_bag(str(theirs), {"Source-Organization": "An archive"})
    with pytest.raises(PlanError, match="bag of another program"):
        arrival.plan(second=str(theirs))
    ids = arrival.open(arrival.source)
    shoot_id = frames.owners(arrival.database.connection(), ids)[ids[0]]
    volumes = [str(arrival.card.slot.parent)]
    for wish in (
        Wish(PlanKind.RENAME, frames=tuple(ids), naming=Naming("x{counter}")),
        Wish(PlanKind.COPY_KEEPERS, str(arrival.card.slot / "kept")),
    ):
        with pytest.raises(PlanError, match="to which nothing is written"):
            make_plan(arrival.database, shoot_id, wish, NOW, volumes)


def test_a_film_may_be_dated_anywhen(arrival: Arrival) -> None:
    folder = arrival.source / "100CARDS"
    folder.chmod(0o755)
    (folder / "MOV_0100.MP4").write_bytes(b"film")
    os.utime(folder / "MOV_0100.MP4", (2**40, 2**40))
    assert arrival.apply(arrival.plan(into=Into.DAY)) is PlanState.APPLIED
    assert len(list(arrival.first.rglob("MOV_0100.MP4"))) == 1


def test_a_film_of_the_evening_is_of_that_day(arrival: Arrival, monkeypatch: pytest.MonkeyPatch) -> None:
    """Eight hours west of Greenwich it is the next day already in UTC (POSIX.1-2017, 8.3: TZ)."""
    monkeypatch.setenv("TZ", "PST8")
    time.tzset()
    try:
        film = arrival.source / "100CARDS" / "MOV_0100.MP4"
        film.parent.chmod(0o755)
        film.write_bytes(b"film")
        evening = datetime(2026, 10, 18, 3, 30, tzinfo=UTC).timestamp()
        os.utime(film, (evening, evening))
        assert arrival.apply(arrival.plan(into=Into.DAY)) is PlanState.APPLIED
        (copied,) = arrival.first.rglob("MOV_0100.MP4")
        assert "2026-10-17" in copied.parts
    finally:
        monkeypatch.undo()
        time.tzset()


def test_names_with_percent_signs_and_line_breaks_survive_the_manifest(tmp_path: Path) -> None:
    """RFC 8493, section 2.1.3: these, and only these, are percent-encoded."""
    sums = {"data/100%.jpg": "0" * 64, "data/a\nb\r.jpg": "1" * 64, "data/ö %41.jpg": "2" * 64}
    for name, content in bag.tag_files(sums, 0, "2026-10-18").items():
        (tmp_path / name).write_bytes(content)
    assert b"data/a%0Ab%0D.jpg" in (tmp_path / bag.MANIFEST).read_bytes()
    assert bag.manifest_of(tmp_path) == sums
    assert bag.tags_differ(tmp_path) == []


def test_slots_show_cards_by_their_layout_and_count_what_is_new(arrival: Arrival, tmp_path: Path) -> None:
    volumes = tmp_path / "volumes"
    (volumes / "BACKUP" / "DCIM" / "holiday").mkdir(parents=True)  # DCF: three digits and five characters
    slots = Slots([volumes])

    def seen() -> list[tuple[str, int, int]]:
        cards = [c for c in slots.cards(arrival.database.connection()) if str(tmp_path) in c.path]
        return [(card.name, card.frames, card.new) for card in cards]

    assert seen() == [("CARD A", 10, 10)]
    assert slots.card_around(str(arrival.source / "100CARDS")) == str(arrival.card.slot)
    assert slots.card_around(str(volumes / "BACKUP")) is None
    assert arrival.apply(arrival.plan()) is PlanState.APPLIED
    arrival.open(arrival.first)
    assert seen() == [("CARD A", 10, 0)]
    arrival.card.pull()
    assert seen() == []
