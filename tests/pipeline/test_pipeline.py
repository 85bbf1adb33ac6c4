"""From a folder to prepared frames, on disk, with worker processes."""

from __future__ import annotations

import multiprocessing
import os
import shutil
import subprocess
import sys
import tempfile
import time
from concurrent.futures import Future
from pathlib import Path

import pytest
from PIL import Image

from tests import photographs
from tests.formats.test_images import write_dng
from tests.pipeline import crash
from tests.server import running, until
from winnow.api.desk import Desk
from winnow.core.marks import Decision, Marks
from winnow.core.xmp_marks import to_xmp
from winnow.formats import xmp
from winnow.pipeline import outcomes, tasks
from winnow.pipeline.cache import Kind
from winnow.pipeline.engine import wait_until_idle
from winnow.pipeline.scan import FolderUnreadableError, list_folder
from winnow.store import frames, marks
from winnow.store.database import Database
from winnow.store.frames import Stage


def prepared(desk: Desk, folder: Path) -> dict[str, dict[str, object]]:
    shoot_id = desk.open_folder(str(folder))
    wait_until_idle(desk.engine)
    rows = frames.summaries(desk.database.connection(), shoot_id)
    return {str(row["name"]): dict(row) for row in rows}


def test_a_folder_is_prepared(desk: Desk, measured_folder: Path) -> None:
    found = prepared(desk, measured_folder)
    assert [row["position"] for row in found.values()] == list(range(6))
    assert [row["group"] for row in found.values()] == [0, 0, 0, 1, 1, 1]
    for row in found.values():
        assert row["stage"] == Stage.PREVIEW
        with Image.open(desk.cache.path(Kind.THUMB, str(row["version"]))) as thumb:
            assert max(thumb.size) == min(512, max(row["width"], row["height"]))  # type: ignore[type-var]


def test_raw_and_jpeg_are_one_frame_and_show_the_jpeg(desk: Desk, tmp_path: Path) -> None:
    folder = tmp_path / "pair"
    photographs.save(folder / "A_0001.JPG", 2)
    write_dng(folder / "A_0001.DNG", photographs.large(300, 200))
    write_dng(folder / "A_0002.DNG", photographs.large(300, 200))
    found = prepared(desk, folder)
    assert set(found) == {"A_0001.JPG", "A_0002.DNG"}
    assert found["A_0001.JPG"]["roles"] == "picture,raw"
    assert found["A_0002.DNG"]["problem"] is None
    assert found["A_0002.DNG"]["stage"] == Stage.PREVIEW


def test_marks_on_disk_are_read_in(desk: Desk, tmp_path: Path) -> None:
    folder = tmp_path / "marked"
    for n, name in enumerate(("a", "b", "c", "d")):
        photographs.save(folder / f"{name}.jpg", n)
    (folder / "a.xmp").write_bytes(xmp.write_marks(None, to_xmp(Marks(rating=4, label="Album"))))
    (folder / "b.jpg.xmp").write_bytes(xmp.write_marks(None, to_xmp(Marks(Decision.REJECT))))
    subprocess.run(
        ["exiftool", "-q", "-overwrite_original", "-XMP-xmp:Rating=3", folder / "c.jpg"], check=True
    )
    (folder / "d.xmp").write_text("this is no XML")
    found = prepared(desk, folder)
    assert (found["a.jpg"]["rating"], found["a.jpg"]["label"]) == (4, "Album")
    assert found["b.jpg"]["decision"] == "reject"
    assert found["c.jpg"]["rating"] == 3
    assert "d.xmp cannot be read" in str(found["d.jpg"]["note"])


def test_marks_of_a_person_are_never_overwritten_by_a_file(desk: Desk, tmp_path: Path) -> None:
    folder = tmp_path / "marked"
    photographs.save(folder / "a.jpg")
    row = prepared(desk, folder)["a.jpg"]
    with desk.database.transaction() as connection:
        marks.set_marks(
            connection, 1, {int(str(row["id"])): {marks.Field.RATING: 5}},
            kind=marks.BatchKind.MARK, actor="person", title="t", now="2026-01-01T00:00:00.000+00:00",
        )  # fmt: skip
    (folder / "a.xmp").write_bytes(xmp.write_marks(None, to_xmp(Marks(rating=1))))
    row = prepared(desk, folder)["a.jpg"]
    assert row["rating"] == 5
    assert "newer than your marks" in str(row["note"])


def test_what_cannot_be_read_stays_with_its_reason(desk: Desk, tmp_path: Path) -> None:
    folder = tmp_path / "mixed"
    photographs.save(folder / "good.jpg")
    (folder / "empty.jpg").write_bytes(b"")
    (folder / "letter.JPG").write_text("Dear diary")
    whole = (folder / "good.jpg").read_bytes()
    (folder / "cut.jpg").write_bytes(whole[: len(whole) // 2])
    odd = os.fsencode(folder) + b"/caf\xe9.jpg"
    Path(os.fsdecode(odd)).write_bytes(whole)
    found = prepared(desk, folder)
    assert "0 bytes" in str(found["empty.jpg"]["problem"])
    assert "holds text" in str(found["letter.JPG"]["problem"])
    assert found["cut.jpg"]["problem"] is None
    assert "truncated" in str(found["cut.jpg"]["note"])
    assert found["caf\ufffd.jpg"]["stage"] == Stage.PREVIEW
    assert found["good.jpg"]["note"] is None


def test_links_and_closed_folders(tmp_path: Path) -> None:
    folder = tmp_path / "links"
    photographs.save(folder / "in" / "a.jpg")
    photographs.save(tmp_path / "outside" / "b.jpg")
    (folder / "in" / "loop").symlink_to(folder)
    (folder / "leads out").symlink_to(tmp_path / "outside")
    (folder / "out.jpg").symlink_to(tmp_path / "outside" / "b.jpg")
    (folder / "dangling.jpg").symlink_to(folder / "nothing")
    listing = list_folder(str(folder))
    assert [frame.name for frame in listing.frames] == ["in/a.jpg"]
    assert sum("leads out" in note for note in listing.notes) >= 2
    with pytest.raises(FolderUnreadableError, match="open it again"):
        list_folder(str(tmp_path / "gone"))


def test_folder_without_permission() -> None:
    """Seen by a process that is not root: root may enter everything."""
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        folder.chmod(0o755)
        photographs.save(folder / "closed" / "a.jpg")
        photographs.save(folder / "open" / "b.jpg")
        (folder / "closed").chmod(0)
        context = multiprocessing.get_context("fork")
        receiver, sender = context.Pipe()

        def as_nobody() -> None:
            if os.geteuid() == 0:
                os.setuid(65534)
            listing = list_folder(name)
            sender.send(([frame.name for frame in listing.frames], listing.notes))

        process = context.Process(target=as_nobody)
        process.start()
        names, notes = receiver.recv()
        process.join()
        (folder / "closed").chmod(0o755)
    assert names == ["open/b.jpg"]
    assert notes == ["closed: Permission denied, not entered."]


def test_opening_again_reads_only_what_changed(desk: Desk, shoot_folder: Path) -> None:
    before = prepared(desk, shoot_folder)
    times = {v: desk.cache.path(Kind.PREVIEW, v).stat().st_mtime_ns for v in _versions(before)}
    photographs.save(shoot_folder / "100WINNO" / "WIN_0007.JPG", 1, second=70)
    (shoot_folder / "100WINNO" / "WIN_0001.JPG").unlink()
    after = prepared(desk, shoot_folder)
    assert after["100WINNO/WIN_0001.JPG"]["place"] == "missing"
    assert after["100WINNO/WIN_0007.JPG"]["stage"] == Stage.PREVIEW
    assert all(desk.cache.path(Kind.PREVIEW, v).stat().st_mtime_ns == t for v, t in times.items())


def _versions(found: dict[str, dict[str, object]]) -> list[str]:
    return [str(row["version"]) for row in found.values()]


def test_the_cache_may_be_deleted_at_any_time(desk: Desk, shoot_folder: Path) -> None:
    before = prepared(desk, shoot_folder)
    shutil.rmtree(desk.cache.folder)
    after = prepared(desk, shoot_folder)
    assert _versions(before) == _versions(after)
    assert all(desk.cache.has(Kind.PREVIEW, v) for v in _versions(after))


def test_stopped_in_the_middle_only_the_rest_is_done(tmp_path: Path) -> None:
    folder, data = photographs.shoot(tmp_path / "many", 20, edge=photographs.WHOLE), tmp_path / "data"
    cache = data / "cache" / "preview"
    with running(data, root=tmp_path) as server:
        server.post("/api/shoots", {"path": str(folder)})
        until(lambda: len(list(cache.glob("??/*.jpg"))) >= 5)
        server.kill()
    made = {path: path.stat().st_mtime_ns for path in cache.glob("??/*.jpg")}
    assert len(made) < 20
    with running(data, root=tmp_path) as server:
        server.open(folder)
    assert len(list(cache.glob("??/*.jpg"))) == 20
    kept = sum(path.stat().st_mtime_ns == time for path, time in made.items())
    assert kept >= len(made) - 2  # at most the ones at hand when it was killed are made again


def test_near_where_the_person_looks_comes_first(
    desk: Desk, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    folder = photographs.shoot(tmp_path / "many", 60, edge=photographs.WHOLE)
    order: list[int] = []
    keep = outcomes.keep_derived

    def watch(
        database: Database, shoot_id: int, picture: frames.Picture, done: Future[tasks.DeriveResult]
    ) -> None:
        order.append(picture.position)
        keep(database, shoot_id, picture, done)

    monkeypatch.setattr(outcomes, "keep_derived", watch)
    shoot_id = desk.open_folder(str(folder))
    desk.engine.look_at(shoot_id, 30)
    until(lambda: len(order) >= 10)
    assert all(25 <= position <= 45 for position in order[:10])


def test_who_steps_fast_gets_the_processor(desk: Desk, tmp_path: Path) -> None:
    """While somebody goes on as fast as a held key does, nothing new is begun but what they ask for; when they stop,
    it goes on."""
    shoot_id = desk.open_folder(str(photographs.shoot(tmp_path / "many", 24, edge=photographs.WHOLE)))
    until(lambda: desk.engine.progress(shoot_id).previewed >= 2)

    def step(times: int) -> int:
        for n in range(times):
            desk.engine.look_at(shoot_id, n % 24)
            time.sleep(0.1)
        return desk.engine.progress(shoot_id).previewed + desk.engine.progress(shoot_id).measured

    before, after = step(10), step(10)
    assert after == before
    row = frames.pictures(desk.database.connection(), shoot_id)[23]
    asked = desk.engine.glimpse(row)
    step(3)
    assert asked.result(timeout=10).jpeg is not None, "what is asked for comes all the same"
    wait_until_idle(desk.engine)
    assert desk.engine.progress(shoot_id).measured == 24


def test_a_crash_of_a_worker_is_recorded_and_the_rest_goes_on(
    desk: Desk, shoot_folder: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(tasks, "derive", crash.derive)
    found = prepared(desk, shoot_folder)
    assert "crash" in str(found["100WINNO/WIN_0003.JPG"]["problem"])
    assert sum(row["problem"] is None for row in found.values()) == 5
    assert all(row["stage"] == Stage.PREVIEW for row in found.values())


def test_a_stuck_task_does_not_keep_the_program_from_ending(tmp_path: Path) -> None:
    """At its end Python waits for process pools; a task that never ends must not be waited for."""
    script = (
        "import time\n"
        "from pathlib import Path\n"
        "from winnow.api.desk import Desk\n"
        "if __name__ == '__main__':\n"
        f"    desk = Desk.set_up(Path({str(tmp_path)!r}), [])\n"
        "    desk.start()\n"
        "    desk.engine.run_apart(time.sleep, 600)\n"
        "    time.sleep(3)\n"
        "    desk.stop()\n"
    )
    (tmp_path / "stuck.py").write_text(script)
    subprocess.run([sys.executable, tmp_path / "stuck.py"], check=True, timeout=90)
