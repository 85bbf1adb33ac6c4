"""Everything that can be wrong with a data folder is told with what to do; what is mended loses nothing."""

from __future__ import annotations

import json
import shutil
import sqlite3
import stat
from pathlib import Path

import pytest

from tests import photographs
from tests.commands import winnow
from tests.server import Server, running, until
from tests.upkeep.test_backups import damage
from winnow.pipeline import shipped
from winnow.store import search
from winnow.store.database import DATABASE, Database


@pytest.fixture(scope="module")
def kept(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A data folder with a shoot that was measured, marked, and has rejects in a holding folder."""
    folder = tmp_path_factory.mktemp("kept")
    pictures = photographs.shoot(folder / "pictures")
    with running(folder / "data", root=folder) as server:
        shoot = server.open(pictures)
        ids = [frame["id"] for frame in server.frames(shoot)]
        server.post(f"/api/shoots/{shoot}/marks", {"frame_ids": ids[:3], "decision": "keep", "rating": 3})
        server.post(f"/api/shoots/{shoot}/marks", {"frame_ids": ids[3:4], "decision": "reject"})
        for wish in ({"kind": "hold-rejects"}, {"kind": "write-sidecars"}):
            apply(server, shoot, wish)
        server.post(f"/api/shoots/{shoot}/marks", {"frame_ids": ids[:1], "rating": 5})
    return folder


def apply(server: Server, shoot: int, wish: dict[str, str]) -> None:
    plan = server.post(f"/api/shoots/{shoot}/plans", wish)["id"]
    server.post(f"/api/plans/{plan}/apply")
    until(lambda: server.get(f"/api/plans/{plan}")["state"] == "applied")


@pytest.fixture
def folder(kept: Path, tmp_path: Path) -> Path:
    """A copy of it, to be broken."""
    shutil.copytree(kept / "data", tmp_path / "data")
    return tmp_path / "data"


def examined(data: Path, *more: str) -> tuple[int, str]:
    return winnow("doctor", "--data", data, *more)


def test_status_counts_what_is_there_and_what_waits(kept: Path) -> None:
    code, text = winnow("status", "--json", "--data", kept / "data")
    found = json.loads(text)
    (shoot,) = found["shoots"]
    assert code == 0 and found["running"] is None and found["problem"] is None
    assert (shoot["frames"], shoot["keepers"], shoot["rejects"]) == (5, 3, 0)
    assert shoot["held"] == 1 and shoot["held_bytes"] > 10_000
    assert shoot["unwritten"] == 1  # the one that was marked after the sidecars were written
    on_disk = sum(path.stat().st_size for path in (kept / "data" / "cache").rglob("*.jpg"))
    assert sum(size for what, size in found["room"].items() if what.startswith("pictures")) == on_disk > 0
    code, text = winnow("status", "--data", kept / "data")
    assert "3 kept, 2 undecided, 0 rejected" in text and "1 frames in holding folders" in text
    assert winnow("status", "--data", kept / "nothing")[0] == 2


def test_a_sound_folder_is_called_sound(folder: Path) -> None:
    assert examined(folder) == (0, "All is sound.\n")


def test_a_damaged_database_is_told_and_left_alone(folder: Path) -> None:
    damage(folder / DATABASE)
    before = (folder / DATABASE).read_bytes()
    code, text = examined(folder, "--mend")
    assert code == 1 and "winnow restore" in text and (folder / DATABASE).read_bytes() == before


def test_a_damaged_index_is_made_anew(folder: Path) -> None:
    with sqlite3.connect(folder / DATABASE) as connection:
        root = connection.execute(
            "SELECT rootpage FROM sqlite_master WHERE name = 'frame_by_time'"
        ).fetchone()
        page = connection.execute("PRAGMA page_size").fetchone()[0]
        marks = connection.execute("SELECT * FROM mark").fetchall()
        connection.execute("PRAGMA wal_checkpoint(TRUNCATE)")
    with (folder / DATABASE).open("r+b") as file:
        # The cells of the index page point elsewhere: two of its entries changed their places (file format, 1.6).
        file.seek((root[0] - 1) * page + 8)
        first, second = file.read(2), file.read(2)
        file.seek((root[0] - 1) * page + 8)
        file.write(second + first)
    code, text = examined(folder)
    assert code == 1 and "index" in text and "No marks are lost" in text
    assert "Mended" in examined(folder, "--mend")[1]
    assert examined(folder)[0] == 0
    with sqlite3.connect(folder / DATABASE) as connection:
        assert connection.execute("SELECT * FROM mark").fetchall() == marks


def test_what_frames_are_found_by_is_written_down_anew(folder: Path) -> None:
    def found() -> int:
        search.bring_up_few(Database(folder / DATABASE))
        return search.find(Database(folder / DATABASE).connection(), "win", 9).frames

    assert found() == 5 and examined(folder)[0] == 0
    # One of its tables says something else than the others.
    with sqlite3.connect(folder / DATABASE) as connection:
        connection.execute("UPDATE frame_text_content SET c0 = 'nothing of the kind'")
    with sqlite3.connect(f"file:{folder / DATABASE}?mode=ro", uri=True) as reading:
        assert not search.is_damaged(reading), "where nothing may be written nobody can tell"
    code, text = examined(folder)
    assert code == 1 and "found by is damaged" in text and "No marks are lost" in text
    assert "Mended" in examined(folder, "--mend")[1] and examined(folder)[0] == 0
    assert found() == 5


def test_what_was_left_over_is_removed_and_nothing_else(folder: Path, kept: Path) -> None:
    parts = [
        folder / "cache" / "preview" / "ab" / "tmpx.part",
        folder / "backups" / "2026-10-18.zip.part",
        next(kept.rglob("*.xmp")).parent / ".winnow-99999.part",
    ]
    strange = folder / "cache" / "thumb" / "ff" / f"{'f' * 20}.jpg"
    for path in (*parts, strange):
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_bytes(b"x" * 100)
    before = {path for path in kept.rglob("*") if path not in parts}
    pictures = {path for path in folder.rglob("*.jpg") if path != strange}
    code, text = examined(folder)
    assert code == 1 and text.count("--mend removes them") == 3
    assert all(path.exists() for path in (*parts, strange))
    assert examined(folder, "--mend")[0] == 0
    assert not any(path.exists() for path in (*parts, strange))
    assert {path for path in kept.rglob("*") if path not in parts} == before
    assert set(folder.rglob("*.jpg")) == pictures


def test_what_a_person_must_do_is_said(folder: Path, kept: Path) -> None:
    (folder / "secret").chmod(0o644)
    (folder / "settings.toml").write_text("port = 'high'")
    with sqlite3.connect(folder / DATABASE) as connection:
        connection.execute("UPDATE folder SET path = CAST('/nowhere/else' AS BLOB)")
        connection.execute("UPDATE batch SET at = '2020-01-01T00:00:00+00:00'")
        connection.execute("UPDATE plan SET state = 'stopped' WHERE id = 1")
    code, text = examined(folder, "--mend")
    assert code == 1
    for words in ("/nowhere/else", "settings.toml", "No backup", "half done"):
        assert words in text, words
    assert stat.S_IMODE((folder / "secret").stat().st_mode) == 0o600


def test_damaged_files_of_the_program_are_told(monkeypatch: pytest.MonkeyPatch, tmp_path: Path) -> None:
    for part in ("models", "api/static"):
        (tmp_path / part).mkdir(parents=True)
        (tmp_path / part / "a").write_bytes(b"as built")
        digest = "a4a1c9b76b7cd6fd3c61e4d9d0e9e2e7a7b5e8c6d4d3a1f0e9d8c7b6a5948372"
        (tmp_path / part / shipped.SUMS).write_text(f"{digest}  a\n")
    assert shipped.damaged() == []
    monkeypatch.setattr(shipped, "files", lambda _: tmp_path)
    assert shipped.damaged() == ["models/a", "api/static/a"]
