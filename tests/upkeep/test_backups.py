"""Backups are whole while others write, are refused where they are damaged, and come back in one piece.

What is in them is looked at with the standard library's zipfile and sqlite3, and by SQLite's own checks.
"""

from __future__ import annotations

import json
import os
import sqlite3
import threading
import time
import zipfile
from contextlib import suppress
from dataclasses import replace
from datetime import UTC, datetime, timedelta
from itertools import product
from pathlib import Path

import pytest

from tests.commands import winnow
from tests.server import Server, running
from tests.store.test_store import fill, set_field
from winnow.core.marks import Field
from winnow.store import backups, devices, shoots
from winnow.store.backups import BackupError, Due
from winnow.store.database import DATABASE, Database, newest_schema
from winnow.store.settings import FILE

THEN = datetime(2026, 10, 18, 9, 0, tzinfo=UTC)


@pytest.fixture
def data(tmp_path: Path) -> Path:
    database = Database(tmp_path / "data" / DATABASE)
    shoot_id, ids = fill(database, tmp_path / "pictures", 40)
    set_field(database, shoot_id, ids[:10], Field.RATING, 4)
    return tmp_path / "data"


def ratings(path: Path) -> dict[int, int]:
    with sqlite3.connect(path) as connection:
        return dict(connection.execute("SELECT frame_id, rating FROM mark ORDER BY 1").fetchall())


def test_a_backup_is_of_one_moment_while_others_write(data: Path, tmp_path: Path) -> None:
    database = Database(data / DATABASE)
    ids = list(range(1, 41))
    ended = threading.Event()

    def mark() -> None:
        stars = 0
        while not ended.is_set():
            stars = (stars + 1) % 6
            set_field(database, 1, ids, Field.RATING, stars)

    writer = threading.Thread(target=mark)
    writer.start()
    try:
        for number in range(6):
            time.sleep(0.05)
            made = backups.make(data, tmp_path / f"{number}.zip")
            with zipfile.ZipFile(tmp_path / f"{number}.zip") as packed:
                assert packed.testzip() is None
                (tmp_path / "copy").write_bytes(packed.read(DATABASE))
                assert packed.read(FILE) == (data / FILE).read_bytes()
            with sqlite3.connect(tmp_path / "copy") as copy:
                assert copy.execute("PRAGMA integrity_check").fetchall() == [("ok",)]
                assert copy.execute("SELECT count(*) FROM batch").fetchone()[0] == made.actions
            assert len(set(ratings(tmp_path / "copy").values())) == 1, "a backup holds half of an action"
    finally:
        ended.set()
        writer.join()


def test_what_is_restored_is_what_was_backed_up_and_what_was_there_is_kept(
    data: Path, tmp_path: Path
) -> None:
    file = tmp_path / "b.zip"
    (data / FILE).write_text("cache_gb = 11")
    backups.make(data, file)
    before = ratings(data / DATABASE)
    database = Database(data / DATABASE)
    (data / FILE).write_text("cache_gb = 12")
    # A log that was not taken into the database: as after a crash. It must not be applied to what is restored.
    set_field(database, 1, list(range(1, 41)), Field.RATING, 1)
    assert Path(f"{data / DATABASE}-wal").stat().st_size > 0
    later = shoots.get(database.connection(), 1)
    database.connection().close()

    made, aside = backups.restore(file, data, THEN)
    assert (made.frames, made.marked, made.schema) == (40, 10, newest_schema())
    assert ratings(data / DATABASE) == before
    assert (data / FILE).read_text() == "cache_gb = 11"
    assert aside is not None and set(ratings(aside / DATABASE).values()) == {1}
    assert (aside / FILE).read_text() == "cache_gb = 12"
    # A page that is still open asks for what changed since: that is everything.
    now = shoots.get(Database(data / DATABASE).connection(), 1)
    assert now and later and now.revision > later.revision
    left = {path.name for path in data.iterdir()} - {DATABASE, f"{DATABASE}-wal", f"{DATABASE}-shm"}
    assert left == {"backups", FILE, "spare-room"}


def test_a_backup_that_is_damaged_or_none_is_refused_and_nothing_is_touched(
    data: Path, tmp_path: Path
) -> None:
    good = tmp_path / "good.zip"
    backups.make(data, good)
    before = ratings(data / DATABASE)
    content = bytearray(good.read_bytes())
    with zipfile.ZipFile(good) as packed:
        start = packed.getinfo(DATABASE).header_offset + 200
    broken = {
        "flipped": bytearray(content),
        "cut": content[: len(content) // 2],
        "none": bytearray(b"no zip"),
    }
    broken["flipped"][start] ^= 0xFF
    with zipfile.ZipFile(tmp_path / "other.zip", "w") as other:
        other.writestr("hello", "world")
    broken["other"] = bytearray((tmp_path / "other.zip").read_bytes())
    for name, damaged in broken.items():
        file = tmp_path / f"{name}.zip"
        file.write_bytes(damaged)
        with pytest.raises(backups.BackupError):
            backups.look(file)
        with pytest.raises(backups.BackupError):
            backups.restore(file, data, THEN)
        assert ratings(data / DATABASE) == before, name
    # Its directory, which says where all is and how it was packed: refused, or it says nothing that matters.
    for at, byte in product(range(content.index(b"PK\x01\x02"), len(content)), (0, 12, 14, 255)):
        file.write_bytes(content[:at] + bytes([byte]) + content[at + 1 :])
        with suppress(backups.BackupError):
            assert backups.look(file).shoots == 1
    with pytest.raises(backups.BackupError, match="is there already"):
        backups.make(data, good)
    with pytest.raises(backups.BackupError, match="cannot be written"):
        backups.make(data, tmp_path / "nowhere" / "b.zip")
    assert not list(tmp_path.glob("*.part")) and not list(tmp_path.glob("*.copy"))


def test_what_cannot_be_backed_up_or_restored_says_why(
    data: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    file, before = tmp_path / "b.zip", ratings(data / DATABASE)
    made = backups.make(data, file)
    with pytest.raises(BackupError, match="nothing in"):
        backups.make(tmp_path / "empty", tmp_path / "c.zip")
    with pytest.raises(BackupError, match="is there already"):
        backups.make(data, file)
    with pytest.raises(BackupError, match="is not there"):
        backups.restore(tmp_path / "gone.zip", data, THEN)
    for change, told in (
        ({"schema": made.schema + 1}, "newer version"),
        ({"form": backups.FORM + 1}, "newer version"),
        ({"sha256": "0" * 64}, "is damaged"),
    ):
        other = tmp_path / f"{next(iter(change))}.zip"
        with zipfile.ZipFile(file) as old, zipfile.ZipFile(other, "w") as new:
            for name in old.namelist():
                content = old.read(name)
                if name == backups.MANIFEST:
                    content = json.dumps(json.loads(content) | change).encode()
                new.writestr(name, content)
        with pytest.raises(BackupError, match=told):
            backups.restore(other, data, THEN)
    monkeypatch.setattr(backups, "ROOM", 1e12)
    assert backups.daily(Due(data, 3, THEN)) is None, "a disk that is nearly full is left alone"
    assert ratings(data / DATABASE) == before
    (data / FILE).unlink()
    without = tmp_path / "without.zip"
    backups.make(data, without)
    assert backups.restore(without, tmp_path / "fresh", THEN)[1] is None


def test_a_database_that_is_damaged_is_not_backed_up_and_can_be_restored_over(
    data: Path, tmp_path: Path
) -> None:
    backups.make(data, tmp_path / "good.zip")
    before = ratings(data / DATABASE)
    damage(data / DATABASE)
    with pytest.raises(backups.BackupError, match="doctor"):
        backups.make(data, tmp_path / "bad.zip")
    _, aside = backups.restore(tmp_path / "good.zip", data, THEN)
    assert ratings(data / DATABASE) == before
    assert aside is not None and (aside / DATABASE).stat().st_size > 0


def damage(path: Path) -> None:
    """Writes over pages in the middle of a database, as a failing disk does."""
    with sqlite3.connect(path) as connection:
        connection.execute("PRAGMA wal_checkpoint(TRUNCATE)")
    size = path.stat().st_size
    with path.open("r+b") as file:
        for at in range(4096 * 2, size - 4096, 4096 * 3):
            file.seek(at)
            file.write(os.urandom(2048))


def test_one_a_day_is_made_and_the_oldest_go(data: Path) -> None:
    for day in range(5):
        now = THEN + timedelta(days=day, minutes=day)
        made = backups.daily(Due(data, 3, now))
        assert made is not None and made.marked == 10
        newest = backups.by_itself(data)[-1]
        os.utime(newest, (now.timestamp(), now.timestamp()))
        assert backups.daily(Due(data, 3, now + timedelta(hours=23))) is None
    assert [path.stem[:10] for path in backups.by_itself(data)] == ["2026-10-20", "2026-10-21", "2026-10-22"]
    assert backups.daily(Due(data, 0, THEN + timedelta(days=30))) is None


def test_a_backup_of_a_clock_that_was_wrong_holds_up_no_other(data: Path) -> None:
    far = backups.place(data, THEN + timedelta(days=4000))
    backups.make(data, far)
    os.utime(far, ((THEN + timedelta(days=4000)).timestamp(),) * 2)
    assert backups.daily(Due(data, 1, THEN)) is not None
    (kept,) = backups.by_itself(data)
    os.utime(kept, (THEN.timestamp(),) * 2)
    assert kept != far and backups.daily(Due(data, 1, THEN + timedelta(hours=1))) is None


def test_who_is_let_in_does_not_come_back_with_the_work(data: Path, tmp_path: Path) -> None:
    database = Database(data / DATABASE)
    with database.transaction() as connection:
        for name in ("tablet", "assistant"):
            devices.let_in(connection, name, f"token of the {name}", "2026-10-18T09:00:00+00:00")
    backups.make(data, tmp_path / "b.zip")
    with database.transaction() as connection:
        stays = devices.every(connection)[0]
        devices.set_proposes(connection, stays.id, True)
        devices.withdraw(connection, devices.every(connection)[1].id)
    database.connection().close()
    for place, let_in in ((data, [replace(stays, proposes=True)]), (tmp_path / "another machine", [])):
        backups.restore(tmp_path / "b.zip", place, THEN)
        assert devices.every(Database(place / DATABASE).connection()) == let_in


def test_a_newer_version_backs_up_before_it_changes_the_database(data: Path) -> None:
    before = ratings(data / DATABASE)
    with sqlite3.connect(data / DATABASE) as connection:  # as if the last migration had still to be done
        connection.execute("DROP TABLE answer")
        connection.execute(f"PRAGMA user_version = {newest_schema() - 1}")
    with pytest.raises(sqlite3.OperationalError):  # it finds other tables there already
        Database(data / DATABASE)
    (kept,) = (data / backups.FOLDER).glob("before-*.zip")
    assert backups.look(kept).schema == newest_schema() - 1
    assert ratings(data / DATABASE) == before


def test_backed_up_and_restored_by_the_commands_while_a_page_is_open(
    lone_server: Server, shoot_folder: Path, tmp_path: Path
) -> None:
    shoot = lone_server.open(shoot_folder)
    ids = [frame["id"] for frame in lone_server.frames(shoot)]
    lone_server.post(f"/api/shoots/{shoot}/marks", {"frame_ids": ids[:2], "decision": "keep"})
    data = tmp_path / "data"
    code, told = winnow("backup", tmp_path / "b.zip", "--data", data)
    assert code == 0 and "2 of them marked" in told
    lone_server.post(f"/api/shoots/{shoot}/marks", {"frame_ids": ids, "decision": "reject"})
    revision = lone_server.get(f"/api/shoots/{shoot}")["revision"]
    code, told = winnow("restore", tmp_path / "b.zip", "--data", data)
    assert code == 2 and "running" in told  # nothing is put in the place of what is used
    lone_server.process.terminate()
    lone_server.process.wait()
    code, told = winnow("restore", tmp_path / "b.zip", "--dry-run", "--data", data)
    assert code == 0 and "6 frames" in told
    code, told = winnow("restore", tmp_path / "b.zip", "--data", data)
    assert code == 0 and "What was there before" in told
    with running(data, root=tmp_path) as again:
        changed = again.get(f"/api/shoots/{shoot}/frames?since={revision}")["frames"]
        assert {frame["id"]: frame["decision"] for frame in changed} == {
            **dict.fromkeys(ids, "undecided"),
            **dict.fromkeys(ids[:2], "keep"),
        }
