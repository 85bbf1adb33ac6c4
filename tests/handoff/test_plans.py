"""Plans on real files: made, applied, interrupted, reversed."""

from __future__ import annotations

import errno
import hashlib
import json
import os
import shutil
import subprocess
from collections.abc import Callable, Iterator
from contextlib import ExitStack
from pathlib import Path
from typing import Any

import pytest

from tests.disks import fill, small_disk
from tests.handoff.killing import killed_at
from winnow.api.desk import Desk
from winnow.api.models.plans import PlanConflict
from winnow.core.file_names import Naming
from winnow.core.history import BatchKind
from winnow.core.marks import Decision, Field, Marks
from winnow.core.xmp_marks import from_xmp, to_xmp
from winnow.formats import xmp
from winnow.handoff import apply as applying
from winnow.handoff import files
from winnow.handoff.draft import PlanError, Wish
from winnow.handoff.plan import make_plan
from winnow.pipeline.engine import wait_until_idle
from winnow.store import bases, frames, marks, plans
from winnow.store.plans import PlanKind, PlanState

NOW = "2026-10-17T20:00:00.000+00:00"
FOREIGN = b"""<x:xmpmeta xmlns:x="adobe:ns:meta/"><rdf:RDF
 xmlns:rdf="http://www.w3.org/1999/02/22-rdf-syntax-ns#"><rdf:Description rdf:about=""
 xmlns:dev="urn:example:dev/" dev:Exposure="+0.5"/></rdf:RDF></x:xmpmeta>"""


class Shoot:
    """A shoot with three keepers (one with RAW and sidecar), two rejects and one undecided frame."""

    def __init__(self, desk: Desk, folder: Path) -> None:
        self.desk, self.folder = desk, folder
        (folder / "100WINNO" / "WIN_0001.NEF").write_bytes(b"raw" * 1000)
        (folder / "100WINNO" / "WIN_0001.xmp").write_bytes(FOREIGN)
        self.id = desk.open_folder(str(folder))
        wait_until_idle(desk.engine)
        self.ids = [row["id"] for row in self.rows()]
        for decision, which in ((Decision.KEEP, (0, 1, 2)), (Decision.REJECT, (3, 4))):
            self.mark(Field.DECISION, decision.value, *which)
        self.mark(Field.RATING, 4, 0)

    def rows(self) -> list[dict[str, object]]:
        return [dict(r) for r in frames.summaries(self.desk.database.connection(), self.id)]

    def places(self) -> list[object]:
        return [row["place"] for row in self.rows()]

    def mark(self, field: Field, value: str | int, *which: int, proposes: bool = False) -> None:
        with self.desk.database.transaction() as connection:
            marks.set_marks(
                connection, self.id, {self.ids[n]: {field: value} for n in which},
                kind=BatchKind.MARK, actor="person", title="t", now=NOW, proposes=proposes,
            )  # fmt: skip

    def marked(self, n: int) -> Marks:
        return marks.current(self.desk.database.connection(), [self.ids[n]])[self.ids[n]]

    def plan(self, kind: PlanKind, target: Path | None = None, **options: Any) -> int:
        wish = Wish(kind, str(target) if target else None, **options)
        return make_plan(self.desk.database, self.id, wish, NOW)

    def apply(self, plan_id: int) -> PlanState:
        return applying.apply(self.desk.database, plan_id)

    def reverse(self, plan_id: int) -> PlanState:
        return applying.reverse(self.desk.database, plan_id)

    def read(self, plan_id: int) -> plans.Plan:
        plan = plans.get(self.desk.database.connection(), plan_id)
        assert plan
        return plan


@pytest.fixture
def shoot(desk: Desk, shoot_folder: Path) -> Iterator[Shoot]:
    yield Shoot(desk, shoot_folder)


def contents(folder: Path) -> dict[str, str]:
    """Every file below a folder with its SHA-256."""
    return {
        str(path.relative_to(folder)): hashlib.sha256(path.read_bytes()).hexdigest()
        for path in sorted(folder.rglob("*"))
        if path.is_file()
    }


def test_copy_keepers_with_sidecars(shoot: Shoot, tmp_path: Path) -> None:
    before, target = contents(shoot.folder), tmp_path / "keepers"
    plan_id = shoot.plan(PlanKind.COPY_KEEPERS, target)
    assert not target.exists()
    assert shoot.read(plan_id).summary["frames"] == 3
    assert shoot.apply(plan_id) is PlanState.APPLIED
    assert contents(shoot.folder) == before
    copied = contents(target)
    for name in ("WIN_0001.JPG", "WIN_0001.NEF", "WIN_0002.JPG", "WIN_0003.JPG"):
        assert copied[name] == before[f"100WINNO/{name}"]
    assert len(copied) == 4 + 3  # and a sidecar each
    packet = (target / "WIN_0001.xmp").read_bytes()
    assert from_xmp(xmp.read_marks(packet)) == Marks(Decision.KEEP, 4)
    seen = json.loads(subprocess.run(["exiftool", "-j", target / "WIN_0001.xmp"], capture_output=True).stdout)
    assert (seen[0]["Exposure"], seen[0]["Rating"]) == ("+0.5", 4)
    stamps = [os.stat(f / "WIN_0001.NEF").st_mtime_ns for f in (target, shoot.folder / "100WINNO")]
    assert stamps[0] == stamps[1]
    assert shoot.reverse(plan_id) is PlanState.REVERSED
    assert contents(target) == {}
    assert contents(shoot.folder) == before


@pytest.mark.parametrize("kind", [PlanKind.COPY_KEEPERS, PlanKind.MOVE_KEEPERS])
def test_marks_leave_in_every_sidecar_that_there_is(shoot: Shoot, tmp_path: Path, kind: PlanKind) -> None:
    """Two programs may name them differently: each reads its own."""
    folder, target = shoot.folder / "100WINNO", tmp_path / "keepers"
    (folder / "WIN_0001.NEF.xmp").write_bytes(FOREIGN)
    wait_for_listing(shoot)
    before = contents(shoot.folder)
    plan_id = shoot.plan(kind, target, naming=Naming("kiln_{counter}"))
    assert shoot.apply(plan_id) is PlanState.APPLIED
    for name in ("kiln_1.xmp", "kiln_1.NEF.xmp"):
        packet = (target / name).read_bytes()
        assert from_xmp(xmp.read_marks(packet)) == Marks(Decision.KEEP, 4) and b"Exposure" in packet
    assert shoot.reverse(plan_id) is PlanState.REVERSED
    assert contents(target) == {} and contents(shoot.folder) == before


def test_existing_files_are_never_overwritten(shoot: Shoot, tmp_path: Path) -> None:
    target = tmp_path / "keepers"
    target.mkdir()
    (target / "win_0001.nef").write_bytes(b"somebody else's")
    plan_id = shoot.plan(PlanKind.COPY_KEEPERS, target)
    renamed = shoot.read(plan_id).summary["renamed"]
    assert {"old": "WIN_0001.JPG", "new": "WIN_0001-2.JPG"} in renamed
    shoot.apply(plan_id)
    assert (target / "win_0001.nef").read_bytes() == b"somebody else's"
    assert {"WIN_0001-2.JPG", "WIN_0001-2.NEF", "WIN_0001-2.xmp"} <= set(contents(target))


def test_a_file_that_appears_later_stops_the_plan(shoot: Shoot, tmp_path: Path) -> None:
    target = tmp_path / "keepers"
    plan_id = shoot.plan(PlanKind.COPY_KEEPERS, target)
    target.mkdir()
    (target / "WIN_0002.JPG").write_bytes(b"late")
    assert shoot.apply(plan_id) is PlanState.STOPPED
    assert "not overwritten" in str(shoot.read(plan_id).error)
    assert (target / "WIN_0002.JPG").read_bytes() == b"late"
    with pytest.raises(PlanError, match="half way"):
        shoot.plan(PlanKind.COPY_KEEPERS, target)
    (target / "WIN_0002.JPG").unlink()
    assert shoot.apply(plan_id) is PlanState.APPLIED
    assert len(contents(target)) == 7


@pytest.mark.parametrize("kind", [PlanKind.MOVE_KEEPERS, PlanKind.HOLD_REJECTS])
def test_moves_come_back_to_the_byte(shoot: Shoot, tmp_path: Path, kind: PlanKind) -> None:
    before = contents(shoot.folder)
    target = tmp_path / "away" if kind is PlanKind.MOVE_KEEPERS else None
    plan_id = shoot.plan(kind, target)
    assert shoot.apply(plan_id) is PlanState.APPLIED
    left = contents(shoot.folder)
    gone = {"0001", "0002", "0003"} if target else {"0004", "0005"}
    assert {name for name in before if not any(n in name for n in gone)} == set(left)
    away = Path(str(shoot.read(plan_id).target))
    assert all(any(n in name for n in gone) for name in contents(away) if "winnow" not in name)
    wait_for_listing(shoot)
    assert len(shoot.rows()) == 6  # nothing came up twice, nothing was lost
    assert shoot.reverse(plan_id) is PlanState.REVERSED
    assert contents(shoot.folder) == before
    assert set(shoot.places()) == {"shoot"}
    assert not (away / ".winnow-holding").exists()


def wait_for_listing(shoot: Shoot) -> None:
    shoot.desk.engine.open(shoot.id)
    wait_until_idle(shoot.desk.engine)


def test_hold_and_bring_back_as_two_plans(shoot: Shoot) -> None:
    before = contents(shoot.folder)
    shoot.apply(shoot.plan(PlanKind.HOLD_REJECTS))
    holding = shoot.folder.with_name("Six (held back)")
    assert set(contents(holding)) == {
        ".winnow-holding", "100WINNO/WIN_0004.JPG", "100WINNO/WIN_0005.JPG"
    }  # fmt: skip
    assert shoot.places() == ["shoot"] * 3 + ["held"] * 2 + ["shoot"]
    (shoot.folder / "100WINNO" / "WIN_0004.JPG").write_bytes(b"a new one took the place")
    plan_id = shoot.plan(PlanKind.BRING_BACK)
    assert shoot.read(plan_id).summary["renamed_count"] == 1
    assert shoot.apply(plan_id) is PlanState.APPLIED
    assert not holding.exists()
    after = contents(shoot.folder)
    assert after["100WINNO/WIN_0004-2.JPG"] == before["100WINNO/WIN_0004.JPG"]
    assert set(shoot.places()) == {"shoot"}


def test_the_holding_folder_is_no_part_of_a_shoot(shoot: Shoot, tmp_path: Path) -> None:
    shoot.apply(shoot.plan(PlanKind.HOLD_REJECTS))
    parent = shoot.desk.open_folder(str(shoot.folder.parent))
    wait_until_idle(shoot.desk.engine)
    assert len(frames.summaries(shoot.desk.database.connection(), parent)) == 4


def test_sidecars_in_place(shoot: Shoot) -> None:
    before = contents(shoot.folder)
    plan_id = shoot.plan(PlanKind.WRITE_SIDECARS)
    assert shoot.apply(plan_id) is PlanState.APPLIED
    after = contents(shoot.folder)
    assert {k: v for k, v in after.items() if not k.endswith(".xmp")} == {
        k: v for k, v in before.items() if not k.endswith(".xmp")
    }
    packet = (shoot.folder / "100WINNO" / "WIN_0004.xmp").read_bytes()
    assert xmp.read_marks(packet).rating == -1
    assert b'dev:Exposure="+0.5"' in (shoot.folder / "100WINNO" / "WIN_0001.xmp").read_bytes()
    assert not (shoot.folder / "100WINNO" / "WIN_0006.xmp").exists()
    wait_for_listing(shoot)
    assert all(row["note"] is None for row in shoot.rows())
    again = shoot.plan(PlanKind.WRITE_SIDECARS)
    assert shoot.read(again).summary["blocked"] == "There is nothing to do."
    assert shoot.reverse(plan_id) is PlanState.REVERSED
    assert contents(shoot.folder) == before


def test_turns_and_words_are_agreed_on_once_written(shoot: Shoot, tmp_path: Path) -> None:
    words = {
        Field.CAPTION: '{"x-default": "Zoë\'s \\"<one> & all\\"\\nsecond line", "de": "Boote, am Kai"}',
        Field.HEADLINE: "Boats & <planks>",
        Field.KEYWORDS: '["<one> & \\"Zoë\\"", "boats, small"]',
        Field.CREATOR: '["Íde Ní Bhriain"]',
        Field.COPYRIGHT: "© 2026 Íde Ní Bhriain",
    }
    for field, value in {Field.TURN: 1, **words}.items():
        shoot.mark(field, value, 0)
    for kind, target in ((PlanKind.COPY_KEEPERS, tmp_path / "k"), (PlanKind.WRITE_SIDECARS, None)):
        plan_id = shoot.plan(kind, target)
        assert shoot.apply(plan_id) is PlanState.APPLIED, shoot.read(plan_id).summary
    base = bases.of_frame(shoot.desk.database.connection(), shoot.ids[0])
    written = shoot.folder / "100WINNO" / "WIN_0001.xmp"
    assert base[str(written)].marks == shoot.marked(0)
    again = shoot.plan(PlanKind.WRITE_SIDECARS)
    assert shoot.read(again).summary["blocked"] == "There is nothing to do."
    # Written by another program, read here: exiftool.
    said = ["-XMP-dc:Subject=<two>, & more", "-XMP-dc:Description-fr=Bateaux", "-XMP-dc:Rights=© 2027"]
    subprocess.run(["exiftool", "-q", "-overwrite_original", *said, written], check=True)
    shoot.desk.engine.open(shoot.id)
    wait_until_idle(shoot.desk.engine)
    # Both had agreed on what the person said, and only theirs changed: it is taken over.
    assert shoot.marked(0).keywords == '["<two>, & more"]' and shoot.rows()[0]["note"] is None
    # Changed on both sides: theirs is not taken over, and a note says what it is.
    shoot.mark(Field.KEYWORDS, '["mine"]', 0)
    subprocess.run(["exiftool", "-q", "-overwrite_original", "-XMP-dc:Subject=theirs", written], check=True)
    shoot.desk.engine.open(shoot.id)
    wait_until_idle(shoot.desk.engine)
    assert "theirs" in str(shoot.rows()[0]["note"])
    assert shoot.marked(0).keywords == '["mine"]'
    told = [
        PlanConflict.model_validate(one)
        for one in shoot.read(shoot.plan(PlanKind.WRITE_SIDECARS)).summary["conflicts"]
    ]
    assert ("keywords", "mine", "theirs") in [(one.field, one.ours, one.theirs) for one in told]


def test_a_sidecar_changed_meanwhile_is_left(shoot: Shoot) -> None:
    plan_id = shoot.plan(PlanKind.WRITE_SIDECARS)
    sidecar = shoot.folder / "100WINNO" / "WIN_0001.xmp"
    changed = xmp.write_marks(FOREIGN, to_xmp(Marks(rating=1)))
    sidecar.write_bytes(changed)
    assert shoot.apply(plan_id) is PlanState.OUTDATED
    assert sidecar.read_bytes() == changed
    assert any("changed after the plan" in said for said in shoot.read(plan_id).summary["differs"])
    assert not (shoot.folder / "100WINNO" / "WIN_0002.xmp").exists(), "nothing was done"


def test_changed_copies_stay_when_a_plan_is_reversed(shoot: Shoot, tmp_path: Path) -> None:
    target = tmp_path / "keepers"
    plan_id = shoot.plan(PlanKind.COPY_KEEPERS, target)
    shoot.apply(plan_id)
    (target / "WIN_0002.JPG").write_bytes(b"edited since")
    shoot.reverse(plan_id)
    assert contents(target).keys() == {"WIN_0002.JPG"}


def stop_after(count: int, then: Callable[[], object]) -> Callable[[int, int], None]:
    """A listener that lets something happen when so many steps are done."""
    return lambda done, total: then() and None if done == count else None


@pytest.mark.parametrize("kind", [PlanKind.MOVE_KEEPERS, PlanKind.COPY_KEEPERS])
def test_a_full_disk_offers_two_ways(shoot: Shoot, tmp_path: Path, kind: PlanKind) -> None:
    before = contents(shoot.folder)
    with small_disk(tmp_path / "disk") as disk:
        plan_id = shoot.plan(kind, disk / "keepers")
        filled = []

        def fill_up() -> None:
            filled.append(fill(disk, leave=10_000))

        applying.apply(shoot.desk.database, plan_id, report=stop_after(2, fill_up))
        assert shoot.read(plan_id).state is PlanState.STOPPED
        assert "is full" in str(shoot.read(plan_id).error)
        assert not list(disk.rglob(".winnow*")), "nothing unfinished stays"
        assert shoot.reverse(plan_id) is PlanState.REVERSED, "with no room at all"
        assert contents(shoot.folder) == before and set(contents(disk)) == {"filler"}
        filled[0].unlink()
        plan_id = shoot.plan(kind, disk / "keepers")
        applying.apply(shoot.desk.database, plan_id, report=stop_after(2, fill_up))
        filled[-1].unlink()
        assert shoot.apply(plan_id) is PlanState.APPLIED, shoot.read(plan_id).error
        assert len(contents(disk / "keepers")) == 7
        assert shoot.reverse(plan_id) is PlanState.REVERSED
    assert contents(shoot.folder) == before


@pytest.mark.parametrize("kind", [PlanKind.MOVE_KEEPERS, PlanKind.COPY_KEEPERS, PlanKind.WRITE_SIDECARS])
@pytest.mark.parametrize("what", ["source", "target"])
def test_a_disk_that_is_pulled_out_stops_the_plan(
    shoot: Shoot, tmp_path: Path, kind: PlanKind, what: str
) -> None:
    """Nothing is concluded from what is not there, neither doing nor taking back."""
    before = contents(shoot.folder)
    volume = tmp_path / "volume"
    volume.mkdir()
    target = None if kind is PlanKind.WRITE_SIDECARS else volume / "keepers"
    plan_id = shoot.plan(kind, target)
    gone = shoot.folder if what == "source" or target is None else volume
    away = gone.with_name("away")

    def states() -> dict[str, int]:
        return plans.count_states(shoot.desk.database.connection(), plan_id)

    applying.apply(shoot.desk.database, plan_id, report=stop_after(2, lambda: gone.rename(away)))
    assert shoot.read(plan_id).state is PlanState.STOPPED
    assert "disk connected" in str(shoot.read(plan_id).error)
    assert not gone.exists(), "nothing is made in its place"
    assert set(states()) <= {"done", "copied", "begun", "waiting"}
    reached = states()
    assert shoot.reverse(plan_id) is PlanState.REVERSAL_STOPPED
    assert states() == reached, "no step counts as taken back"
    assert shoot.read(plan_id).state not in (PlanState.STOPPED, PlanState.APPLYING)
    away.rename(gone)
    shoot.plan(PlanKind.HOLD_REJECTS)  # later plans are not refused for it
    assert shoot.reverse(plan_id) is PlanState.REVERSED
    assert contents(shoot.folder) == before
    assert contents(volume) == {}


def test_the_only_copy_there_is_stays(shoot: Shoot, tmp_path: Path) -> None:
    """Taking a copy back does not remove it when its original is gone meanwhile."""
    plan_id = shoot.plan(PlanKind.COPY_KEEPERS, tmp_path / "keepers")
    shoot.apply(plan_id)
    (shoot.folder / "100WINNO" / "WIN_0002.JPG").unlink()
    assert shoot.reverse(plan_id) is PlanState.REVERSED
    assert contents(tmp_path / "keepers").keys() == {"WIN_0002.JPG"}
    left = plans.left_behind(shoot.desk.database.connection(), plan_id)
    assert len(left) == 1 and "no longer there" in left[0][1] and "stays" in left[0][1]


def test_a_target_that_is_gone_for_good(shoot: Shoot, tmp_path: Path) -> None:
    plan_id = shoot.plan(PlanKind.MOVE_KEEPERS, tmp_path / "keepers")
    shoot.apply(plan_id)
    shutil.rmtree(tmp_path / "keepers")
    assert shoot.reverse(plan_id) is PlanState.REVERSAL_STOPPED
    assert "cannot be reached" in str(shoot.read(plan_id).error)
    assert shoot.apply(shoot.plan(PlanKind.HOLD_REJECTS)) is PlanState.APPLIED
    (tmp_path / "keepers").mkdir()
    assert shoot.reverse(plan_id) is PlanState.REVERSED
    left = plans.left_behind(shoot.desk.database.connection(), plan_id)
    assert len(left) == 6 and all("no longer there" in reason for _, reason in left)


def test_a_move_across_disks_is_verified(
    shoot: Shoot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """A disk that keeps other bytes than it was given."""
    before = contents(shoot.folder)
    with small_disk(tmp_path / "disk") as disk:
        plan_id = shoot.plan(PlanKind.MOVE_KEEPERS, disk / "keepers")
        sync = os.fsync

        def spoiling(handle: int) -> None:
            sync(handle)
            path = Path(os.readlink(f"/proc/self/fd/{handle}"))
            if path.suffix == ".part":
                with path.open("r+b") as file:
                    file.write(b"?")

        monkeypatch.setattr(os, "fsync", spoiling)
        assert shoot.apply(plan_id) is PlanState.STOPPED
        assert "reads back differently" in str(shoot.read(plan_id).error)
        monkeypatch.setattr(os, "fsync", sync)
        assert contents(shoot.folder) == before and contents(disk) == {}
        assert shoot.apply(plan_id) is PlanState.APPLIED
        assert len(contents(disk)) == 7 and not any("0001" in name for name in contents(shoot.folder))
        assert shoot.reverse(plan_id) is PlanState.REVERSED
    assert contents(shoot.folder) == before


def test_disks_without_hard_links(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    def no_links(*_: object, **__: object) -> None:
        raise OSError(errno.EPERM, "not permitted")

    monkeypatch.setattr(os, "link", no_links)
    (tmp_path / "a").write_bytes(b"1")
    (tmp_path / "b").write_bytes(b"2")
    with pytest.raises(files.TargetTakenError):
        files.take_name(str(tmp_path / "a"), str(tmp_path / "b"))
    files.take_name(str(tmp_path / "a"), str(tmp_path / "c"))
    assert (tmp_path / "c").read_bytes() == b"1"


@pytest.fixture
def other_disk() -> Iterator[ExitStack]:
    with ExitStack() as stack:
        yield stack


@pytest.mark.parametrize(
    ("kind", "way", "same_disk"),
    [
        (PlanKind.MOVE_KEEPERS, "apply", False),
        (PlanKind.MOVE_KEEPERS, "reverse", False),
        (PlanKind.MOVE_KEEPERS, "apply", True),
        (PlanKind.COPY_KEEPERS, "reverse", True),
    ],
)
def test_kill_9_at_many_moments(
    shoot: Shoot, tmp_path: Path, kind: PlanKind, way: str, same_disk: bool, other_disk: ExitStack
) -> None:
    """Killed before and after calls that change the disk: the next start must finish, with every
    file there exactly once."""
    before = contents(shoot.folder)
    originals = {v for k, v in before.items() if not k.endswith(".xmp")}
    if not same_disk:
        other_disk.enter_context(small_disk(tmp_path / "disk"))
    moment = 1
    while True:
        target = tmp_path / ("." if same_disk else "disk") / f"t{moment}"
        plan_id = shoot.plan(kind, target)
        if way == "reverse":
            shoot.apply(plan_id)
        if not killed_at(moment, shoot.desk.database.path, plan_id, way):
            break
        everything = [*contents(shoot.folder).values(), *contents(target).values()]
        assert originals <= set(everything), f"lost at moment {moment}"
        assert [plan.id for plan in applying.recover(shoot.desk.database)] == [plan_id]
        state = shoot.apply(plan_id) if way == "apply" else shoot.reverse(plan_id)
        if way == "apply":
            assert state is PlanState.APPLIED
            here, there = contents(shoot.folder), contents(target)
            assert len(there) == 7, f"moment {moment}: {sorted(there)}"
            if kind is PlanKind.MOVE_KEEPERS:
                assert not set(here.values()) & {v for k, v in there.items() if "xmp" not in k}
            state = shoot.reverse(plan_id)
        assert state is PlanState.REVERSED
        assert contents(shoot.folder) == before, f"moment {moment}"
        assert contents(target) == {}, f"moment {moment}"
        moment += 11
    assert moment > 40


def test_progress_is_told_of_every_step(shoot: Shoot, tmp_path: Path) -> None:
    plan_id = shoot.plan(PlanKind.COPY_KEEPERS, tmp_path / "keepers")
    told: list[tuple[int, int]] = []
    applying.apply(shoot.desk.database, plan_id, report=lambda *said: told.append(said))
    count = len(plans.steps(shoot.desk.database.connection(), plan_id))
    assert told == [(n, count) for n in range(count + 1)]


def test_a_holding_folder_whose_name_is_taken_gets_another(shoot: Shoot) -> None:
    (shoot.folder.with_name("Six (held back)")).mkdir()
    plan_id = shoot.plan(PlanKind.HOLD_REJECTS)
    assert str(shoot.read(plan_id).target).endswith("Six (held back 2)")
    assert shoot.apply(plan_id) is PlanState.APPLIED
    assert (shoot.folder.with_name("Six (held back 2)") / ".winnow-holding").exists()


def test_only_what_is_held_back_goes_to_the_bin(
    shoot: Shoot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """The bin is that of the Trash specification (freedesktop.org): file and `.trashinfo` with where it was."""
    trash = tmp_path / "trash"
    monkeypatch.setattr("send2trash.plat_other.HOMETRASH_B", bytes(trash))
    monkeypatch.setattr("send2trash.plat_other.get_dev", lambda path: 1)
    assert "nothing to do" in shoot.read(shoot.plan(PlanKind.BIN)).summary["blocked"]
    assert shoot.apply(shoot.plan(PlanKind.HOLD_REJECTS, frames=(shoot.ids[3],))) is PlanState.APPLIED
    assert shoot.places() == ["shoot"] * 3 + ["held"] + ["shoot"] * 2
    assert shoot.apply(shoot.plan(PlanKind.HOLD_REJECTS)) is PlanState.APPLIED
    holding = shoot.folder.with_name("Six (held back)")
    plan_id = shoot.plan(PlanKind.BIN, frames=(shoot.ids[4],))
    assert shoot.apply(plan_id) is PlanState.APPLIED
    assert shoot.places() == ["shoot"] * 3 + ["held", "binned", "shoot"]
    assert [path.name for path in (trash / "files").iterdir()] == ["WIN_0005.JPG"]
    assert (
        f"Path={holding}/100WINNO/WIN_0005.JPG".replace(" ", "%20").replace("(", "%28").replace(")", "%29")
        in (trash / "info" / "WIN_0005.JPG.trashinfo").read_text()
    )
    # the holding folder is what it is by its marker: without it nothing in there is thrown away
    (holding / ".winnow-holding").rename(holding / "marker")
    assert "not lie in a holding folder" in shoot.read(shoot.plan(PlanKind.BIN)).summary["warnings"][0]
    (holding / "marker").rename(holding / ".winnow-holding")
    assert shoot.apply(shoot.plan(PlanKind.BIN)) is PlanState.APPLIED
    assert not holding.exists()
    assert len(list((shoot.folder / "100WINNO").glob("*.JPG"))) == 4
    # put back by the system where it was taken from the shoot, it is itself again
    (trash / "files" / "WIN_0005.JPG").rename(shoot.folder / "100WINNO" / "WIN_0005.JPG")
    wait_for_listing(shoot)
    assert shoot.places() == ["shoot"] * 3 + ["binned", "shoot", "shoot"]
    assert shoot.marked(4).decision is Decision.REJECT
