"""Plans under odd circumstances: made long ago, on odd disks, cut off at odd moments, beside others."""

from __future__ import annotations

import errno
import json
import os
import sqlite3
import subprocess
import threading
import time
from contextlib import suppress
from pathlib import Path
from typing import Any

import pytest

from tests import photographs
from tests.disks import bound, fill, small_disk
from tests.handoff.test_plans import Shoot, contents, stop_after, wait_for_listing
from tests.server import until
from winnow.api.desk import Desk
from winnow.api.plans import list_plans
from winnow.core.file_names import Naming
from winnow.core.marks import Decision, Field
from winnow.core.proof import Proof
from winnow.formats import xmp
from winnow.handoff import apply as applying
from winnow.handoff import forward
from winnow.handoff.apply import CUT_OFF
from winnow.handoff.copying import Copied
from winnow.handoff.draft import PlanError, Wish
from winnow.handoff.kinds import holding_folder
from winnow.handoff.plan import make_plan
from winnow.handoff.runner import BusyError
from winnow.pipeline.scan import list_folder
from winnow.store import frames, plans, shoots
from winnow.store.database import NoRoomError
from winnow.store.plans import PlanKind, PlanState, StepState


@pytest.fixture
def shoot(desk: Desk, shoot_folder: Path) -> Shoot:
    return Shoot(desk, shoot_folder)


def differs(shoot: Shoot, plan_id: int) -> str:
    return "\n".join(shoot.read(plan_id).summary.get("differs", ()))


@pytest.mark.parametrize(
    ("change", "said"),
    [
        (lambda s: s.mark(Field.DECISION, "keep", 3), "WIN_0004.JPG is no longer a reject"),
        (lambda s: s.mark(Field.DECISION, "reject", 5), "1 more frame(s) belong to it now: WIN_0006.JPG"),
        (
            lambda s: photographs.save(s.folder / "100WINNO" / "WIN_0005.JPG", 4, second=900),
            "WIN_0005.JPG was changed after the plan was made",
        ),
        (
            lambda s: (s.folder / "100WINNO" / "WIN_0005.xmp").write_bytes(b"<x/>"),
            "WIN_0005.xmp appeared after the plan was made",
        ),
    ],
)
def test_a_plan_that_is_out_of_date_does_nothing(shoot: Shoot, change: object, said: str) -> None:
    plan_id = shoot.plan(PlanKind.HOLD_REJECTS)
    change(shoot)  # type: ignore[operator]
    before = contents(shoot.folder.parent)
    assert shoot.apply(plan_id) is PlanState.OUTDATED
    assert said in differs(shoot, plan_id)
    assert contents(shoot.folder.parent) == before
    with pytest.raises(applying.StoppedError, match="cannot be applied"):
        shoot.apply(plan_id)
    if "WIN_0005.JPG" in said:
        wait_for_listing(shoot)
    again = shoot.plan(shoot.read(plan_id).kind)
    assert shoot.apply(again) is PlanState.APPLIED


@pytest.mark.parametrize("kind", [kind for kind in PlanKind if kind is not PlanKind.IMPORT])
def test_a_plan_to_which_nothing_happened_is_carried_out(
    shoot: Shoot, tmp_path: Path, kind: PlanKind, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Among the frames: one that cannot be read, one that is only proposed, one without marks, one that is gone, one
    that is held, and marks of all kinds."""
    monkeypatch.setattr("send2trash.plat_other.HOMETRASH_B", bytes(tmp_path / "trash"))
    monkeypatch.setattr("send2trash.plat_other.get_dev", lambda path: 1)
    folder = shoot.folder / "100WINNO"
    for number in (7, 8, 9):
        photographs.save(
            folder / f"WIN_{number:04d}.JPG", number, second=900 + number, edge=photographs.SMALL
        )
    (folder / "WIN_0007.JPG").write_bytes(b"")
    wait_for_listing(shoot)
    shoot.ids = [row["id"] for row in shoot.rows()]
    by_name = {str(row["name"])[-5]: shoot.ids.index(row["id"]) for row in shoot.rows()}
    shoot.mark(Field.DECISION, "keep", by_name["7"], by_name["9"])
    shoot.mark(Field.LABEL, "Retouch", by_name["5"])
    (folder / "WIN_0009.JPG").unlink()
    wait_for_listing(shoot)
    shoot.mark(Field.DECISION, "keep", by_name["6"], proposes=True)
    assert (
        shoot.apply(shoot.plan(PlanKind.HOLD_REJECTS, frames=(shoot.ids[by_name["4"]],))) is PlanState.APPLIED
    )
    needs = {PlanKind.PROOF: {"proof": Proof("Kiln")}, PlanKind.RENAME: {"naming": Naming("x{counter}")}}
    scopes = [{}, {"frames": tuple(shoot.ids)}]
    if kind in (PlanKind.COPY_KEEPERS, PlanKind.MOVE_KEEPERS, PlanKind.PROOF, PlanKind.RENAME):
        scopes.append({"show": "keepers or undecided"})
    for number, scope in enumerate(scopes):
        plan_id = shoot.plan(kind, tmp_path / f"to {number}", **needs.get(kind, {}), **scope)
        state = shoot.apply(plan_id)
        assert (state, differs(shoot, plan_id)) == (PlanState.APPLIED, ""), scope
        if kind is PlanKind.BIN:
            break
        assert shoot.reverse(plan_id) is PlanState.REVERSED


def test_marks_that_a_plan_would_write_are_looked_at_again(shoot: Shoot, tmp_path: Path) -> None:
    for kind, target in ((PlanKind.WRITE_SIDECARS, None), (PlanKind.COPY_KEEPERS, tmp_path / "k")):
        plan_id = shoot.plan(kind, target)
        shoot.mark(Field.RATING, 1 if target else 2, 0)
        assert shoot.apply(plan_id) is PlanState.OUTDATED
        assert "WIN_0001.JPG was marked differently" in differs(shoot, plan_id)
    without = shoot.plan(PlanKind.COPY_KEEPERS, tmp_path / "k", with_marks=False)
    shoot.mark(Field.RATING, 5, 0)
    assert shoot.apply(without) is PlanState.APPLIED, "stars do not matter to it"


def test_a_frame_rescued_while_its_plan_is_stopped_stays(shoot: Shoot) -> None:
    plan_id = shoot.plan(PlanKind.HOLD_REJECTS)
    applying.apply(shoot.desk.database, plan_id, stop=iter([None, "Stopped."]).__next__)
    assert shoot.read(plan_id).state is PlanState.STOPPED
    shoot.mark(Field.DECISION, "keep", 4)
    assert shoot.apply(plan_id) is PlanState.APPLIED
    assert (shoot.folder / "100WINNO" / "WIN_0005.JPG").exists()
    left = plans.left_behind(shoot.desk.database.connection(), plan_id)
    assert ["no longer a reject" in reason for _, reason in left] == [True]


def test_sidecars_that_appeared_since_the_listing_go_along(shoot: Shoot, tmp_path: Path) -> None:
    sidecar = shoot.folder / "100WINNO" / "WIN_0004.JPG.xmp"
    sidecar.write_bytes(xmp.write_marks(None, xmp.XmpMarks(rating=3)))
    packet = sidecar.read_bytes()
    plan_id = shoot.plan(PlanKind.HOLD_REJECTS)
    assert shoot.apply(plan_id) is PlanState.APPLIED
    held = Path(str(shoot.read(plan_id).target)) / "100WINNO" / "WIN_0004.JPG.xmp"
    assert held.read_bytes() == packet and not sidecar.exists()
    assert shoot.reverse(plan_id) is PlanState.REVERSED and sidecar.read_bytes() == packet


def test_a_frame_that_changed_since_the_listing_is_left_out(shoot: Shoot) -> None:
    """A card that was used again: the marks are those of the picture that was there before."""
    photographs.save(shoot.folder / "100WINNO" / "WIN_0004.JPG", 4, second=900)
    plan_id = shoot.plan(PlanKind.HOLD_REJECTS)
    assert "WIN_0004.JPG has changed since it was listed" in shoot.read(plan_id).summary["warnings"][0]
    assert shoot.apply(plan_id) is PlanState.APPLIED
    assert (shoot.folder / "100WINNO" / "WIN_0004.JPG").exists()


def test_one_plan_at_a_time_and_other_shoots_go_on(desk: Desk, shoot: Shoot, tmp_path: Path) -> None:
    """A plan that waits for its disk keeps neither another shoot from being listed nor its plans from running."""
    other = Shoot(desk, photographs.shoot(tmp_path / "shoots" / "Other"))
    going = threading.Event()
    plan_id = shoot.plan(PlanKind.COPY_KEEPERS, tmp_path / "k")
    real = forward.copy

    def slow(*arguments: Any, **more: Any) -> Copied:
        assert going.wait(60)
        return real(*arguments, **more)

    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(forward, "copy", slow)
        running = desk.runner.start(plan_id)
        until(lambda: shoot.read(plan_id).state is PlanState.APPLYING)
        with pytest.raises(PlanError, match="under way"):
            shoot.plan(PlanKind.WRITE_SIDECARS)
        with pytest.raises(BusyError, match="A plan runs on this shoot"):
            desk.runner.start(plan_id, backwards=True)
        wait_for_listing(other)
        ended = desk.runner.start(other.plan(PlanKind.WRITE_SIDECARS))
        assert ended.result(30) is PlanState.APPLIED
        assert not running.done()
        going.set()
        assert running.result(60) is PlanState.APPLIED


def test_an_exception_that_nobody_thought_of(shoot: Shoot, tmp_path: Path) -> None:
    before = contents(shoot.folder)

    def surprise() -> None:
        raise ZeroDivisionError("surprise")

    plan_id = shoot.plan(PlanKind.MOVE_KEEPERS, tmp_path / "k")
    state = applying.apply(shoot.desk.database, plan_id, report=stop_after(3, surprise))
    assert state is PlanState.STOPPED and "surprise" in str(shoot.read(plan_id).error)
    assert shoot.reverse(plan_id) is PlanState.REVERSED and contents(shoot.folder) == before


def test_a_database_that_fails(shoot: Shoot, tmp_path: Path) -> None:
    """Locked by another program for longer than anybody waits."""
    before = contents(shoot.folder)
    plan_id = shoot.plan(PlanKind.MOVE_KEEPERS, tmp_path / "k")
    shoot.desk.database.connection().execute("PRAGMA busy_timeout = 100")
    blocker = sqlite3.connect(shoot.desk.database.path, isolation_level=None, check_same_thread=False)
    applying.apply(
        shoot.desk.database, plan_id, report=stop_after(2, lambda: blocker.execute("BEGIN IMMEDIATE"))
    )
    blocker.execute("ROLLBACK")
    # It could not even be written down that it stopped; it counts as stopped all the same.
    assert shoot.read(plan_id).state in (PlanState.APPLYING, PlanState.STOPPED)
    assert applying.recover(shoot.desk.database)[0].state is PlanState.STOPPED
    assert shoot.apply(plan_id) is PlanState.APPLIED
    assert shoot.reverse(plan_id) is PlanState.REVERSED and contents(shoot.folder) == before


def test_a_full_data_disk(tmp_path: Path) -> None:
    """Marks say so, a folder that is opened says so, plans stop and can be taken back; all goes on with room."""
    with small_disk(tmp_path / "small", 40) as disk:
        desk = Desk.set_up(disk / "data", [tmp_path])
        desk.start()
        try:
            shoot = Shoot(desk, photographs.shoot(tmp_path / "shoots" / "Six"))
            before = contents(shoot.folder)
            plan_id = shoot.plan(PlanKind.MOVE_KEEPERS, tmp_path / "k")
            filler = fill(disk)
            with pytest.raises(NoRoomError, match=r"not saved\. Make room"):
                for n in range(400):
                    shoot.mark(Field.RATING, n % 6, 0, 1, 2, 3, 4, 5)
            with pytest.raises(NoRoomError):
                shoot.mark(Field.LABEL, "x" * 80, 0)
            new = photographs.shoot(tmp_path / "shoots" / "New", edge=photographs.WHOLE)
            with pytest.raises(NoRoomError):
                desk.open_folder(str(new))
            photographs.save(shoot.folder / "100WINNO" / "WIN_0007.JPG", 2, second=99)
            desk.engine.open(shoot.id)
            until(lambda: desk.engine.progress(shoot.id).state == "paused")
            assert "no room" in str(desk.engine.progress(shoot.id).message)
            # What is kept free for it is enough for a plan to be applied and taken back.
            assert applying.apply(desk.database, plan_id) is PlanState.APPLIED
            assert shoot.reverse(plan_id) is PlanState.REVERSED
            filler.unlink()
            opened = desk.open_folder(str(new))
            until(lambda: desk.engine.progress(opened).state == "done")
            rows = frames.summaries(desk.database.connection(), opened)
            assert len(rows) == 6 and all(row["faces"] is not None for row in rows)
            until(lambda: desk.engine.progress(shoot.id).state == "done")
            assert len(shoot.rows()) == 7, "what came meanwhile is there by itself"
            shoot.mark(Field.RATING, 5, 0)
            assert before.items() <= contents(shoot.folder).items()
        finally:
            desk.stop()


def test_rolling_back_on_a_disk_that_holds_everything(tmp_path: Path) -> None:
    """Shoot, target and data on one small disk, full to the last byte: the way back works at that moment."""
    with small_disk(tmp_path / "only", 100) as disk:
        desk = Desk.set_up(disk / "data", [tmp_path])
        desk.start()
        try:
            shoot = Shoot(desk, photographs.shoot(disk / "shoots" / "Six"))
            before = contents(shoot.folder)
            plan_id = shoot.plan(PlanKind.COPY_KEEPERS, disk / "k")
            applying.apply(desk.database, plan_id, report=stop_after(3, lambda: fill(disk)))
            assert shoot.read(plan_id).state is PlanState.STOPPED
            assert "full" in str(shoot.read(plan_id).error) or "no room" in str(shoot.read(plan_id).error)
            with suppress(OSError), (disk / "filler").open("ab", buffering=0) as file:
                while file.write(b"x" * 4096):
                    pass
            assert shoot.reverse(plan_id) is PlanState.REVERSED
            assert contents(shoot.folder) == before and not any((disk / "k").iterdir())
        finally:
            desk.stop()


def test_two_mounts_of_one_disk(shoot: Shoot, tmp_path: Path) -> None:
    """Device numbers are the same and yet nothing can be renamed across (EXDEV)."""
    before = contents(shoot.folder)
    with bound(tmp_path / "shoots", tmp_path / "mount"):
        target = tmp_path / "mount" / "away"
        assert os.stat(tmp_path / "mount").st_dev == os.stat(shoot.folder).st_dev
        with pytest.raises(OSError, match="cross-device"):
            os.link(shoot.folder / "100WINNO" / "WIN_0001.JPG", tmp_path / "mount" / "x")
        plan_id = shoot.plan(PlanKind.MOVE_KEEPERS, target)
        assert shoot.apply(plan_id) is PlanState.APPLIED, shoot.read(plan_id).error
        assert len(contents(target)) == 7 and len(contents(shoot.folder)) == 3
        assert shoot.reverse(plan_id) is PlanState.REVERSED
    assert contents(shoot.folder) == before


def test_modes_times_and_attributes_across_disks(shoot: Shoot, tmp_path: Path) -> None:
    path = shoot.folder / "100WINNO" / "WIN_0001.JPG"
    path.chmod(0o640)
    kept = True
    try:
        os.setxattr(path, "user.photographer", b"Ann")
    except OSError as error:
        assert error.errno == errno.ENOTSUP
        kept = False
    stat = path.stat()
    with small_disk(tmp_path / "disk") as disk:
        plan_id = shoot.plan(PlanKind.MOVE_KEEPERS, disk / "k")
        assert shoot.apply(plan_id) is PlanState.APPLIED
        there = disk / "k" / path.name
        assert (there.stat().st_mode, there.stat().st_mtime_ns) == (stat.st_mode, stat.st_mtime_ns)
        remarks = plans.remarks(shoot.desk.database.connection(), plan_id)
        carried = kept and "user.photographer" in os.listxattr(there)
        assert carried or not kept or "user.photographer" in remarks[0][1], "kept, or said that it was not"
        assert shoot.reverse(plan_id) is PlanState.REVERSED
    assert path.stat().st_mode == stat.st_mode
    if carried:
        assert os.getxattr(path, "user.photographer") == b"Ann"


def test_links_go_on_leading_to_their_file(desk: Desk, shoot_folder: Path, tmp_path: Path) -> None:
    """Relative and absolute ones, with and without the file they lead to, whichever moves first."""
    card = shoot_folder / "100WINNO"
    (card / "A_near.JPG").symlink_to("WIN_0004.JPG")
    (card / "Z_near.JPG").symlink_to("WIN_0005.JPG")
    (shoot_folder / "far.JPG").symlink_to("100WINNO/WIN_0001.JPG")
    (shoot_folder / "full.JPG").symlink_to(card / "WIN_0005.JPG")
    texts = {p.name: os.readlink(p) for p in shoot_folder.rglob("*") if p.is_symlink()}
    shoot = Shoot(desk, shoot_folder)
    rows = {Path(str(row["name"])).name: n for n, row in enumerate(shoot.rows())}
    shoot.mark(Field.DECISION, "undecided", *rows.values())
    chosen = ["WIN_0004.JPG", "WIN_0005.JPG", "A_near.JPG", "Z_near.JPG", "far.JPG", "full.JPG"]
    shoot.mark(Field.DECISION, "reject", *(rows[name] for name in chosen))
    seen = {name: (shoot_folder.rglob(name).__next__()).read_bytes() for name in chosen}
    before = contents(shoot_folder)
    plan_id = shoot.plan(PlanKind.HOLD_REJECTS)
    assert shoot.apply(plan_id) is PlanState.APPLIED
    holding = Path(str(shoot.read(plan_id).target))
    for name in chosen:
        found = next(holding.rglob(name))
        assert found.read_bytes() == seen[name], name
        assert found.is_symlink() == (name in texts)
    assert shoot.reverse(plan_id) is PlanState.REVERSED
    assert contents(shoot_folder) == before
    assert {p.name: os.readlink(p) for p in shoot_folder.rglob("*") if p.is_symlink()} == texts


@pytest.mark.parametrize("reached", ["renamed", "linked", "untouched", "reserved"])
@pytest.mark.parametrize("way", ["apply", "reverse"])
def test_an_empty_original_is_no_placeholder(shoot: Shoot, reached: str, way: str) -> None:
    """0 bytes, cut off at every point of its move: there it is, or back, and never gone."""
    path = shoot.folder / "100WINNO" / "WIN_0009.JPG"
    path.write_bytes(b"")
    os.utime(path, (1e9, 1e9))
    wait_for_listing(shoot)
    number = next(n for n, row in enumerate(shoot.rows()) if "0009" in str(row["name"]))
    shoot.ids = [row["id"] for row in shoot.rows()]
    shoot.mark(Field.DECISION, "undecided", *range(len(shoot.ids)))
    shoot.mark(Field.DECISION, "reject", number)
    plan_id = shoot.plan(PlanKind.HOLD_REJECTS)
    (step,) = plans.steps(shoot.desk.database.connection(), plan_id)
    with shoot.desk.database.transaction() as connection:
        plans.set_step(connection, step, StepState.BEGUN)
        plans.set_state(connection, plan_id, PlanState.APPLYING)
    target = Path(step.target)
    target.parent.mkdir(parents=True)
    match reached:
        case "renamed":
            path.rename(target)
        case "linked":
            os.link(path, target)
        case "reserved":
            target.touch()
    assert applying.recover(shoot.desk.database)[0].error == CUT_OFF
    if way == "apply":
        assert shoot.apply(plan_id) is PlanState.APPLIED
        assert target.exists() and not path.exists()
        assert shoot.reverse(plan_id) is PlanState.REVERSED
    else:
        assert shoot.reverse(plan_id) is PlanState.REVERSED
    assert path.exists() and not target.exists()
    assert path.stat().st_size == 0 and (path.stat().st_mtime == 1e9 or reached == "reserved")


def test_a_shoot_at_the_root_of_a_drive(desk: Desk, tmp_path: Path) -> None:
    """There is nothing beside it: the holding folder stands inside, and is no part of the shoot."""
    with small_disk(tmp_path / "drive") as drive:
        shoot = Shoot(desk, photographs.shoot(drive))
        before = contents(drive)
        plan_id = shoot.plan(PlanKind.HOLD_REJECTS)
        assert shoot.apply(plan_id) is PlanState.APPLIED
        holding = drive / "held back"
        assert shoot.read(plan_id).target == str(holding) == holding_folder(str(drive))
        assert len(list(holding.rglob("*.JPG"))) == 2
        wait_for_listing(shoot)
        assert sorted(shoot.places()) == ["held"] * 2 + ["shoot"] * 4  # type: ignore[type-var]
        assert len(list_folder(str(drive)).frames) == 4
        assert shoot.apply(shoot.plan(PlanKind.BRING_BACK)) is PlanState.APPLIED
        assert contents(drive) == before


def test_disks_that_ignore_case(shoot: Shoot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """Names and folders that differ in case or in how accents are composed are one name on many disks."""
    card = shoot.folder / "100WINNO"
    (shoot.folder / "100winno").mkdir()
    photographs.save(shoot.folder / "100winno" / "win_0001.jpg", 5, second=300)
    wait_for_listing(shoot)
    shoot.ids = [row["id"] for row in shoot.rows()]
    shoot.mark(Field.DECISION, "keep", *range(len(shoot.ids)))
    plan_id = shoot.plan(PlanKind.COPY_KEEPERS, tmp_path / "k", keep_folders=True)
    steps = plans.steps(shoot.desk.database.connection(), plan_id)
    folded = [step.target.casefold() for step in steps]
    assert len(set(folded)) == len(folded)
    # Spelt otherwise, a folder inside the shoot is still inside it.
    (tmp_path / "SHOOTS").symlink_to(tmp_path / "shoots")
    with pytest.raises(PlanError, match="inside the shoot"):
        shoot.plan(PlanKind.COPY_KEEPERS, tmp_path / "SHOOTS" / "Six" / "k")
    assert card.exists()


def test_marking_goes_on_while_a_plan_is_made(desk: Desk, shoot_folder: Path, tmp_path: Path) -> None:
    """The disk is read and the plan worked out outside the transaction: nobody waits for it."""
    shoot = Shoot(desk, shoot_folder)
    inside = threading.Event()
    done = threading.Event()
    real = os.listdir

    def slow(path: str) -> list[str]:
        inside.set()
        assert done.wait(30)
        return real(path)

    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(os, "listdir", slow)
        made: list[int] = []
        wish = Wish(PlanKind.COPY_KEEPERS, str(tmp_path / "k"))
        thread = threading.Thread(
            target=lambda: made.append(make_plan(desk.database, shoot.id, wish, "2026-10-17T20:00:00"))
        )
        thread.start()
        assert inside.wait(30)
        start = time.monotonic()
        shoot.mark(Field.RATING, 3, 5)
        assert time.monotonic() - start < 10
        done.set()
        thread.join()
    assert len(made) == 1


def test_what_exiftool_reads_in_every_sidecar(shoot: Shoot) -> None:
    """An independent reader of XMP (Debian's exiftool) beside the marks in the store."""
    shoot.mark(Field.LABEL, "Print 5×7", 0)
    shoot.apply(shoot.plan(PlanKind.WRITE_SIDECARS))
    command = ["exiftool", "-j", "-r", "-ext", "xmp", "-XMP-xmp:Rating", "-XMP-xmp:Label", shoot.folder]
    read = json.loads(subprocess.run(command, capture_output=True).stdout)
    found = {Path(entry["SourceFile"]).stem: entry for entry in read}
    for row in shoot.rows():
        entry = found.get(Path(str(row["name"])).stem)
        if row["decision"] == "undecided":
            assert entry is None
            continue
        assert entry is not None
        assert entry["Rating"] == (-1 if row["decision"] == Decision.REJECT else row["rating"])
        assert entry.get("Label") == row["label"]


def test_a_folder_is_locked_with_what_lies_in_it(desk: Desk, tmp_path: Path) -> None:
    (tmp_path / "locks" / "sub").mkdir(parents=True)
    order: list[str] = []
    held, free = threading.Event(), threading.Event()

    def hold(name: str, folder: Path) -> None:
        with desk.engine.folders.holding([str(folder)]):
            order.append(name)
            held.set()
            free.wait(10)

    first = threading.Thread(target=hold, args=("around", tmp_path / "locks"))
    first.start()
    assert held.wait(10)
    second = threading.Thread(target=hold, args=("inside", tmp_path / "locks" / "sub"))
    second.start()
    with desk.engine.folders.holding([str(tmp_path / "elsewhere")]):
        order.append("elsewhere")
    assert order == ["around", "elsewhere"]
    free.set()
    first.join()
    second.join()
    assert order == ["around", "elsewhere", "inside"]


def test_a_plan_that_was_just_started_is_seen(desk: Desk, shoot: Shoot, tmp_path: Path) -> None:
    """Until it has been held against the disk it is not under way in the database: of thousands of files that takes
    seconds."""
    plan_id = shoot.plan(PlanKind.COPY_KEEPERS, tmp_path / "k")
    opened = shoots.get(desk.database.connection(), shoot.id)
    assert opened is not None and list_plans(desk, opened) == []
    with desk.engine.folders.holding([str(shoot.folder)]):
        running = desk.runner.start(plan_id)
        assert [(plan.id, plan.running) for plan in list_plans(desk, opened)] == [(plan_id, True)]
    assert running.result(60) is PlanState.APPLIED
    assert [plan.running for plan in list_plans(desk, opened)] == [False]
