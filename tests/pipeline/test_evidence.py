"""Evidence through worker processes and the store: kept, resumed, judged in groups, corrected by hand."""

from __future__ import annotations

import io
import json
from pathlib import Path

import numpy as np
import pytest
from PIL import Image

from tests import photographs
from tests.commands import command
from tests.pipeline import crash
from tests.server import Server, running, until
from winnow.api.desk import Desk
from winnow.core.capture import Area
from winnow.core.evidence import Sheet, measure
from winnow.core.group_edits import Word
from winnow.core.picture import Rgb
from winnow.core.similarity import compare, describe
from winnow.pipeline import tasks
from winnow.pipeline.engine import wait_until_idle
from winnow.pipeline.intake import NOT_MEASURED
from winnow.store import evidence, frames


def three_poses(folder: Path) -> Path:
    """Nine frames: three photographs, three times each, the same pose a second apart, 20 s between poses."""
    for n in range(9):
        photographs.save(folder / f"WIN_{n + 1:04d}.JPG", n // 3, second=20 * (n // 3) + n % 3)
    return folder


def rows_of(desk: Desk, shoot_id: int) -> list[dict[str, object]]:
    return [dict(row) for row in frames.summaries(desk.database.connection(), shoot_id)]


def test_descriptors_of_earlier_releases_are_read() -> None:
    """They were kept as `numpy.savez` writes them."""
    made = describe(np.asarray(photographs.photograph(1)))
    kept = io.BytesIO()
    arrays = {name: getattr(made, name) for name in ("colours", "sketch", "points", "features")}
    np.savez(kept, hash=np.array([made.hash], np.uint64), size=np.array(made.size), **arrays)
    for found in (kept.getvalue(), evidence._pack_descriptor(made)):
        again = evidence.unpack_descriptor(found)
        assert (again.hash, again.size) == (made.hash, made.size)
        assert all((getattr(again, name) == array).all() for name, array in arrays.items())
        assert compare(made, again, match=True).matched == 1


def test_evidence_is_kept_whole() -> None:
    """What comes back from the store judges and compares as what went in."""
    sheet = Sheet(Rgb(np.asarray(photographs.photograph(0))))
    before = measure(sheet, tasks.face_nets())
    kept = evidence.pack(before)
    assert kept.content is not None and kept.descriptor is not None
    after = evidence.unpack(kept.content, kept.descriptor)
    assert (after.width, after.height, len(after.faces)) == (before.width, before.height, 1)
    assert np.array_equal(after.descriptor.features, before.descriptor.features)
    assert after.descriptor.hash == before.descriptor.hash
    assert np.allclose(after.focus.map.sigma, before.focus.map.sigma, atol=0.006, equal_nan=True)
    assert after.faces[0].points.eyes[0].ratio == pytest.approx(
        before.faces[0].points.eyes[0].ratio, rel=1e-4
    )
    assert after.exposure.median_stops == pytest.approx(before.exposure.median_stops, rel=1e-4)


def test_groups_leads_and_edits(desk: Desk, tmp_path: Path) -> None:
    shoot_id = desk.open_folder(str(three_poses(tmp_path / "poses")))
    wait_until_idle(desk.engine)
    rows = rows_of(desk, shoot_id)
    assert [row["group"] for row in rows] == [0, 0, 0, 1, 1, 1, 2, 2, 2]
    assert [sum(bool(row["lead"]) for row in rows if row["group"] == g) for g in range(3)] == [1, 1, 1]
    assert [row["faces"] for row in rows] == [1, 1, 1] + [0] * 6
    assert [row["decision"] for row in rows] == ["undecided"] * 9, "evidence never marks"
    with desk.database.transaction() as connection:
        said = {rows[1]["id"]: Word(None), rows[6]["id"]: Word(rows[5]["id"])}
        evidence.set_words(connection, said)
    desk.engine.regroup(shoot_id)
    assert [row["group"] for row in rows_of(desk, shoot_id)] == [0, 1, 1, 2, 2, 2, 2, 2, 2]
    desk.engine.open(shoot_id)
    wait_until_idle(desk.engine)
    assert [row["group"] for row in rows_of(desk, shoot_id)] == [0, 1, 1, 2, 2, 2, 2, 2, 2]


def test_a_changed_picture_is_measured_again(desk: Desk, tmp_path: Path) -> None:
    folder = three_poses(tmp_path / "poses")
    shoot_id = desk.open_folder(str(folder))
    wait_until_idle(desk.engine)
    photographs.save(folder / "WIN_0002.JPG", 4, second=1)
    desk.engine.open(shoot_id)
    wait_until_idle(desk.engine)
    rows = {str(row["name"]): row for row in rows_of(desk, shoot_id)}
    first, stray, third = (rows[f"WIN_000{n}.JPG"] for n in (1, 2, 3))
    assert [row["faces"] for row in (first, stray, third)] == [1, 0, 1]
    assert first["group"] == third["group"] != stray["group"], "a stray frame does not end the group"


def test_a_crash_while_measuring_leaves_the_picture(
    desk: Desk, measured_folder: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(tasks, "prepare", crash.prepare)
    shoot_id = desk.open_folder(str(measured_folder))
    wait_until_idle(desk.engine)
    rows = {str(row["name"]): row for row in rows_of(desk, shoot_id)}
    assert all(row["problem"] is None for row in rows.values())
    victim = rows[f"100WINNO/{crash.VICTIM}.JPG"]
    found = evidence.details(desk.database.connection(), victim["id"])  # type: ignore[arg-type]
    assert found is not None and (found["content"], found["problem"]) == (None, NOT_MEASURED)
    assert sum(row["faces"] is not None for row in rows.values()) == 5
    assert desk.engine.progress(shoot_id).measured == 6


def test_a_killed_measuring_goes_on_where_it_was(tmp_path: Path) -> None:
    folder, data = photographs.shoot(tmp_path / "many", 16, edge=photographs.WHOLE), tmp_path / "data"

    def measured(server: Server) -> int:
        count: int = server.get("/api/shoots/1")["progress"]["measured"]
        return count

    with running(data, root=tmp_path) as server:
        server.post("/api/shoots", {"path": str(folder)})
        until(lambda: measured(server) >= 4)
        server.kill()
    with running(data, root=tmp_path) as server:
        server.post("/api/shoots", {"path": str(folder)})
        until(lambda: server.get("/api/shoots/1")["progress"]["state"] in ("deriving", "measuring", "done"))
        assert measured(server) >= 4
        until(lambda: server.get("/api/shoots/1")["progress"]["state"] == "done")
        assert measured(server) == 16


def test_analyse_reports_what_cannot_be_read(tmp_path: Path) -> None:
    folder = photographs.shoot(tmp_path / "shoot", 3, edge=photographs.WHOLE)
    (folder / "EMPTY.JPG").write_bytes(b"")
    before = {str(path) for path in folder.rglob("*")}
    done = command("analyse", folder, "--json", "-")
    assert done.returncode == 1
    report = json.loads(done.stdout)
    broken = next(frame for frame in report["frames"] if frame["path"] == "EMPTY.JPG")
    assert not broken["readable"] and "empty" in broken["error"] and broken["focus"] is None
    assert "EMPTY.JPG" in done.stderr and "measured" in done.stderr
    assert sum(frame["focus"] is not None for frame in report["frames"]) == 3
    assert command("analyse", folder / "nope").returncode == 2
    assert {str(path) for path in folder.rglob("*")} == before, "nothing is left behind"


def test_the_subject_area_of_the_camera_is_the_subject(desk: Desk, tmp_path: Path) -> None:
    """Exif SubjectArea is in the picture as stored; the subject in the upright one. Source: CIPA DC-008."""
    folder = tmp_path / "area"
    folder.mkdir()
    stored = photographs.photograph(2).transpose(Image.Transpose.ROTATE_90)
    block = photographs.exif(orientation=6, SubjectLocation=(120, 249, 40, 60))  # Pillow's name
    stored.save(folder / "A_0001.JPG", quality=92, exif=block)
    shoot_id = desk.open_folder(str(folder))
    wait_until_idle(desk.engine)
    (row,) = rows_of(desk, shoot_id)
    found = evidence.load(desk.database.connection(), [row["id"]])[row["id"]]  # type: ignore[list-item,index]
    assert found.focus.subject is not None and found.focus.subject.kind == "exif"
    width, height = stored.size
    assert (row["width"], row["height"]) == (height, width)
    assert (found.focus.subject.x, found.focus.subject.y) == (height - 1 - 249, 120)
    kept = frames.picture(desk.database.connection(), row["id"])  # type: ignore[arg-type]
    assert kept is not None and kept.subject == Area(350, 120, 60, 40), "turned with the picture"


@pytest.mark.parametrize("size", [(1, 1), (64, 64), (299, 200), (2000, 40)])
def test_pictures_too_small_to_measure_say_so(desk: Desk, tmp_path: Path, size: tuple[int, int]) -> None:
    """Icons and strips: no exception in the note, and nothing that is tried again at every start."""
    folder = tmp_path / "icons"
    folder.mkdir()
    photographs.photograph(2).resize(size).save(folder / "ICON.PNG")
    shoot_id = desk.open_folder(str(folder))
    wait_until_idle(desk.engine)
    (row,) = rows_of(desk, shoot_id)
    found = evidence.details(desk.database.connection(), row["id"])  # type: ignore[arg-type]
    assert found is not None and found["problem"] == tasks.TOO_SMALL.problem
    assert (row["problem"], row["note"], row["warnings"]) == (None, None, "")
    assert evidence.failed(desk.database.connection(), shoot_id) == 0
