"""Plans on real files: made, applied, interrupted, reversed."""

from __future__ import annotations

import errno
import hashlib
import json
import os
import subprocess
import sys
from collections.abc import Iterator
from pathlib import Path

import pytest

from tests import photographs
from winnow.api.desk import Desk
from winnow.core.history import BatchKind
from winnow.core.marks import Decision, Field, Marks
from winnow.core.xmp_marks import from_xmp, to_xmp
from winnow.formats import xmp
from winnow.handoff import apply as applying
from winnow.handoff import files
from winnow.handoff.plan import PlanError, Wish, make_plan
from winnow.pipeline.engine import wait_until_idle
from winnow.store import frames, marks, plans
from winnow.store.plans import PlanKind, PlanState

NOW = "2026-10-17T20:00:00.000+00:00"
FOREIGN = b"""<x:xmpmeta xmlns:x="adobe:ns:meta/"><rdf:RDF
 xmlns:rdf="http://www.w3.org/1999/02/22-rdf-syntax-ns#"><rdf:Description rdf:about=""
 xmlns:dev="urn:example:dev/" dev:Exposure="+0.5"/></rdf:RDF></x:xmpmeta>"""


class Shoot:
    """A shoot with three picks (one with RAW and sidecar), two rejects and one undecided frame."""

    def __init__(self, desk: Desk, folder: Path) -> None:
        self.desk, self.folder = desk, folder
        (folder / "100WINNO" / "WIN_0001.NEF").write_bytes(b"raw" * 1000)
        (folder / "100WINNO" / "WIN_0001.xmp").write_bytes(FOREIGN)
        self.id = desk.open_folder(str(folder))
        wait_until_idle(desk.engine)
        self.ids = [row["id"] for row in self.rows()]
        for decision, which in ((Decision.PICK, (0, 1, 2)), (Decision.REJECT, (3, 4))):
            self.mark(Field.DECISION, decision.value, *which)
        self.mark(Field.RATING, 4, 0)

    def rows(self) -> list[dict[str, object]]:
        return [dict(r) for r in frames.summaries(self.desk.database.connection(), self.id)]

    def places(self) -> list[object]:
        return [row["place"] for row in self.rows()]

    def mark(self, field: Field, value: str | int, *which: int) -> None:
        with self.desk.database.transaction() as connection:
            marks.set_marks(
                connection, self.id, {self.ids[n]: {field: value} for n in which},
                kind=BatchKind.MARK, actor="person", title="t", now=NOW,
            )  # fmt: skip

    def plan(self, kind: PlanKind, target: Path | None = None, **options: bool) -> int:
        with self.desk.database.transaction() as connection:
            wish = Wish(kind, str(target) if target else None, **options)
            return make_plan(connection, self.id, wish, NOW)

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
    assert from_xmp(xmp.read_marks(packet)) == Marks(Decision.PICK, 4)
    seen = json.loads(subprocess.run(["exiftool", "-j", target / "WIN_0001.xmp"], capture_output=True).stdout)
    assert (seen[0]["Exposure"], seen[0]["Rating"]) == ("+0.5", 4)
    stamps = [os.stat(f / "WIN_0001.NEF").st_mtime_ns for f in (target, shoot.folder / "100WINNO")]
    assert stamps[0] == stamps[1]
    assert shoot.reverse(plan_id) is PlanState.REVERSED
    assert contents(target) == {}
    assert contents(shoot.folder) == before


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


def test_a_sidecar_changed_meanwhile_is_left(shoot: Shoot) -> None:
    plan_id = shoot.plan(PlanKind.WRITE_SIDECARS)
    sidecar = shoot.folder / "100WINNO" / "WIN_0001.xmp"
    changed = xmp.write_marks(FOREIGN, to_xmp(Marks(rating=1)))
    sidecar.write_bytes(changed)
    assert shoot.apply(plan_id) is PlanState.APPLIED
    assert sidecar.read_bytes() == changed
    left = plans.left_behind(shoot.desk.database.connection(), plan_id)
    assert "changed after the plan" in left[0][1]


def test_changed_copies_stay_when_a_plan_is_reversed(shoot: Shoot, tmp_path: Path) -> None:
    target = tmp_path / "keepers"
    plan_id = shoot.plan(PlanKind.COPY_KEEPERS, target)
    shoot.apply(plan_id)
    (target / "WIN_0002.JPG").write_bytes(b"edited since")
    shoot.reverse(plan_id)
    assert contents(target).keys() == {"WIN_0002.JPG"}


@pytest.mark.parametrize("code", [errno.ENOSPC, errno.ENOENT, errno.EIO])
def test_a_full_or_unplugged_disk_stops_cleanly(
    shoot: Shoot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, code: int
) -> None:
    before, target = contents(shoot.folder), tmp_path / "keepers"
    plan_id = shoot.plan(PlanKind.MOVE_KEEPERS, target)
    whole = files.move
    calls = []

    def failing(source: str, to: str, part: str) -> None:
        calls.append(source)
        if len(calls) == 3:
            raise OSError(code, os.strerror(code), to)
        whole(source, to, part)

    monkeypatch.setattr(files, "move", failing)
    assert shoot.apply(plan_id) is PlanState.STOPPED
    assert "go on" in str(shoot.read(plan_id).error)
    monkeypatch.setattr(files, "move", whole)
    everything = sorted(contents(shoot.folder).values()) + sorted(contents(target).values())
    assert set(before.values()) <= set(everything)
    assert shoot.reverse(plan_id) is PlanState.REVERSED
    assert contents(shoot.folder) == before


def test_a_really_full_disk(shoot: Shoot, tmp_path: Path) -> None:
    """/dev/full answers every write with 'no space left'."""
    with pytest.raises(OSError, match="No space"):
        files._write_part(str(shoot.folder / "100WINNO" / "WIN_0001.JPG"), "/dev/full")


def test_a_move_across_disks_is_verified(
    shoot: Shoot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    source, target = shoot.folder / "100WINNO" / "WIN_0001.JPG", tmp_path / "x" / "a.jpg"
    content = source.read_bytes()
    monkeypatch.setattr(files, "same_disk", lambda *_: False)
    real = files.digest_of
    monkeypatch.setattr(files, "digest_of", lambda path, **_: "0" * 64)
    with pytest.raises(files.VerificationError):
        files.move(str(source), str(target), str(target) + ".part")
    assert source.read_bytes() == content
    assert not target.exists()
    monkeypatch.setattr(files, "digest_of", real)
    files.move(str(source), str(target), str(target) + ".part")
    assert target.read_bytes() == content
    assert not source.exists()
    assert [path.name for path in target.parent.iterdir()] == ["a.jpg"]


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


KILLER = """
import os, sys
from pathlib import Path
from winnow.handoff import apply, files
from winnow.store import plans
from winnow.store.database import Database

data, plan_id, way, moment = sys.argv[1], int(sys.argv[2]), sys.argv[3], int(sys.argv[4])
count = 0

def tick():
    global count
    count += 1
    if count == moment:
        os.kill(os.getpid(), 9)

def watched(function):
    def call(*arguments, **options):
        tick()
        result = function(*arguments, **options)
        tick()
        return result
    return call

for name in ("link", "unlink", "replace", "fsync", "rmdir"):
    setattr(os, name, watched(getattr(os, name)))
plans.set_step = watched(plans.set_step)
files.same_disk = lambda *_: bool(int(sys.argv[5]))
getattr(apply, way)(Database(Path(data)), plan_id)
print("ended", count)
"""


@pytest.mark.parametrize("same_disk", [True, False])
@pytest.mark.parametrize("way", ["apply", "reverse"])
@pytest.mark.parametrize("kind", [PlanKind.MOVE_KEEPERS, PlanKind.COPY_KEEPERS])
def test_kill_9_at_many_moments(
    shoot: Shoot, tmp_path: Path, kind: PlanKind, way: str, same_disk: bool
) -> None:
    """Killed before and after calls that change the disk: the next start must finish, with every
    file there exactly once."""
    before = contents(shoot.folder)
    originals = {v for k, v in before.items() if not k.endswith(".xmp")}
    moment = 1
    while True:
        target = tmp_path / f"t{moment}"
        plan_id = shoot.plan(kind, target)
        if way == "reverse":
            shoot.apply(plan_id)
        run = subprocess.run(
            [sys.executable, "-c", KILLER, shoot.desk.database.path, str(plan_id), way, str(moment),
             str(int(same_disk))],
            capture_output=True, text=True,
        )  # fmt: skip
        if "ended" in run.stdout:
            break
        assert run.returncode == -9, run.stderr
        everything = [*contents(shoot.folder).values(), *contents(target).values()]
        assert originals <= set(everything), f"lost at moment {moment}"
        state = applying.resume_unfinished(shoot.desk.database, shoot.read(plan_id))
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
        moment += 5
    assert moment > 20


def test_targets_that_cannot_work(shoot: Shoot, tmp_path: Path) -> None:
    with pytest.raises(PlanError, match="inside the shoot"):
        shoot.plan(PlanKind.COPY_KEEPERS, shoot.folder / "keepers")
    with pytest.raises(PlanError, match="Choose the folder"):
        shoot.plan(PlanKind.COPY_KEEPERS)
    photographs.save(tmp_path / "elsewhere" / "a.jpg")
    shoot.mark(Field.DECISION, "undecided", 0, 1, 2)
    empty = shoot.plan(PlanKind.COPY_KEEPERS, tmp_path / "t")
    with pytest.raises(applying.StoppedError, match="nothing to do"):
        shoot.apply(empty)
