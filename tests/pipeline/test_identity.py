"""A frame is an exposure, not a path: through the worker processes, on real files."""

from __future__ import annotations

import shutil
import subprocess
from collections.abc import Sequence
from pathlib import Path

import numpy as np
import pytest
from PIL import Image

from tests import photographs
from tests.disks import pulled_out, small_disk
from tests.formats.test_images import write_dng
from tests.pipeline import crash
from tests.server import until
from winnow.api.desk import Desk
from winnow.core.group_edits import Word
from winnow.core.history import BatchKind
from winnow.core.labels import FIRST
from winnow.core.marks import Decision, Field, Marks
from winnow.core.sentence import parse
from winnow.core.xmp_marks import to_xmp
from winnow.formats import xmp
from winnow.handoff import apply as applying
from winnow.handoff.draft import Wish
from winnow.handoff.plan import make_plan
from winnow.pipeline import relocation, tasks
from winnow.pipeline.engine import wait_until_idle
from winnow.pipeline.listing import is_gone
from winnow.store import evidence, frames, marks, plans, shoots
from winnow.store.census import Census
from winnow.store.plans import PlanKind, PlanState

NOW = "2026-10-17T20:00:00.000+00:00"


class Shoot:
    """A shoot on a desk, looked at by the names of its frames."""

    def __init__(self, desk: Desk, folder: Path) -> None:
        self.desk, self.folder = desk, folder
        self.id = desk.open_folder(str(folder))
        wait_until_idle(desk.engine)

    def rows(self, place: str = "shoot") -> dict[str, dict[str, object]]:
        found = frames.summaries(self.desk.database.connection(), self.id)
        return {Path(row["name"]).name: dict(row) for row in found if row["place"] == place}

    def list_again(self, *, asked: bool = False) -> None:
        self.desk.engine.open(self.id, asked=asked)
        wait_until_idle(self.desk.engine)

    def mark(self, rating: int, *names: str) -> None:
        self._set(Field.RATING, rating, names)

    def decide(self, decision: Decision, *names: str) -> None:
        self._set(Field.DECISION, decision.value, names)

    def _set(self, field: Field, value: str | int, names: Sequence[str]) -> None:
        rows = self.rows()
        with self.desk.database.transaction() as connection:
            marks.set_marks(
                connection, self.id, {rows[name]["id"]: {field: value} for name in names},  # type: ignore[misc]
                kind=BatchKind.MARK, actor="person", title="t", now=NOW,
            )  # fmt: skip

    def ratings(self, place: str = "shoot") -> dict[str, object]:
        return {name: row["rating"] for name, row in self.rows(place).items()}

    def made(self) -> dict[str, int]:
        """Every preview with the time it was made, and every row of evidence."""
        cache = self.desk.cache.folder / "preview"
        times = {path.stem: path.stat().st_mtime_ns for path in cache.glob("??/*.jpg")}
        rows = self.desk.database.connection().execute("SELECT rowid, version FROM evidence")
        return times | {f"evidence {row[0]}": hash(row[1]) for row in rows}

    def plan(self, kind: PlanKind, target: Path | None = None, **options: bool) -> int:
        wish = Wish(kind, str(target) if target else None, **options)
        return make_plan(self.desk.database, self.id, wish, NOW)

    def conflicts(self, plan_id: int) -> list[dict[str, object]]:
        plan = plans.get(self.desk.database.connection(), plan_id)
        assert plan
        found: list[dict[str, object]] = plan.summary["conflicts"]
        return found

    def apply(self, plan_id: int) -> PlanState:
        return applying.apply(self.desk.database, plan_id)


@pytest.fixture
def shoot(desk: Desk, measured_folder: Path) -> Shoot:
    return Shoot(desk, measured_folder)


def test_a_card_that_is_used_again(shoot: Shoot) -> None:
    """The same names, another day: other frames, unmarked; the old ones are missing, with marks and history."""
    card = shoot.folder / "100WINNO"
    shoot.mark(5, *shoot.rows())
    shoot.decide(Decision.REJECT, "WIN_0001.JPG")
    before = shoot.rows()
    for n in range(1, 5):
        photographs.save(card / f"WIN_000{n}.JPG", n + 1, second=500 + n)
    shoot.list_again()
    now = shoot.rows()
    assert shoot.ratings() == {f"WIN_000{n}.JPG": 5 if n > 4 else 0 for n in range(1, 7)}
    assert not {now[f"WIN_000{n}.JPG"]["id"] for n in range(1, 5)} & {row["id"] for row in before.values()}
    assert shoot.ratings("missing") == dict.fromkeys([f"WIN_000{n}.JPG" for n in range(1, 5)], 5)
    assert all(row["faces"] is not None for row in now.values()), "measured anew"
    plan = shoot.plan(PlanKind.HOLD_REJECTS)
    with pytest.raises(applying.StoppedError, match="nothing to do"):
        shoot.apply(plan)
    # The first card comes back: so do its frames, under their marks.
    for n, second in enumerate((0, 2, 4)):
        photographs.save(card / f"WIN_000{n + 1}.JPG", 0, second=second, shift=3 * n)
    shoot.list_again()
    back = shoot.rows()
    assert {back[f"WIN_000{n}.JPG"]["id"] for n in (1, 2, 3)} == {
        before[f"WIN_000{n}.JPG"]["id"] for n in (1, 2, 3)
    }
    assert back["WIN_0001.JPG"]["decision"] == "reject"


def test_renamed_files_and_folders_keep_everything(shoot: Shoot) -> None:
    rows = shoot.rows()
    for n, name in enumerate(rows):
        shoot.mark(n % 5 + 1, name)
    with shoot.desk.database.transaction() as connection:
        evidence.set_words(connection, {rows["WIN_0002.JPG"]["id"]: Word(None)})  # type: ignore[dict-item]
    shoot.desk.engine.regroup(shoot.id)
    groups = [row["group"] for row in shoot.rows().values()]
    before, made = shoot.ratings(), shoot.made()
    (shoot.folder / "100WINNO").rename(shoot.folder / "a wedding")
    for path in (shoot.folder / "a wedding").glob("*.JPG"):
        path.rename(path.with_name(path.name.replace("WIN_", "Ann ")))
    shoot.list_again()
    assert shoot.ratings() == {name.replace("WIN_", "Ann "): r for name, r in before.items()}
    assert {row["id"] for row in shoot.rows().values()} == {row["id"] for row in rows.values()}
    assert [row["group"] for row in shoot.rows().values()] == groups
    assert shoot.rows("missing") == {}
    assert shoot.made() == made, "nothing is measured again"


def test_names_that_change_places(shoot: Shoot) -> None:
    card = shoot.folder / "100WINNO"
    shoot.mark(1, "WIN_0001.JPG")
    shoot.mark(4, "WIN_0004.JPG")
    made = shoot.made()
    for one, other in (("WIN_0001", "tmp"), ("WIN_0004", "WIN_0001"), ("tmp", "WIN_0004")):
        (card / f"{one}.JPG").rename(card / f"{other}.JPG")
    shoot.list_again()
    assert shoot.ratings()["WIN_0001.JPG"] == 4 and shoot.ratings()["WIN_0004.JPG"] == 1
    assert shoot.made() == made


def test_the_whole_shoot_on_another_disk(shoot: Shoot, tmp_path: Path) -> None:
    shoot.mark(3, *shoot.rows())
    made = shoot.made()
    new = tmp_path / "other disk" / "Six"
    shutil.copytree(shoot.folder, new, copy_function=shutil.copyfile)  # with new dates, as some programs copy
    shutil.rmtree(shoot.folder)
    shoot.list_again()
    assert shoot.desk.engine.progress(shoot.id).state == "unreadable"
    assert set(shoot.ratings().values()) == {3}, "nothing is missing because a disk is"
    database = shoot.desk.database
    known = shoots.get(database.connection(), shoot.id)
    assert known is not None and is_gone(database, known)
    assert relocation.match(database, known, str(new)) == relocation.Match(6, 6, 0)
    found = relocation.whose(database, str(new))
    assert found is not None and found[0].id == shoot.id
    relocation.relocate(database, known, new)
    shoot.list_again()
    assert shoot.desk.engine.progress(shoot.id).state == "done"
    assert list(shoot.ratings().values()) == [3] * 6 and shoot.rows("missing") == {}
    assert shoot.made() == made


def test_rejects_that_wait_go_with_the_shoot(shoot: Shoot, tmp_path: Path) -> None:
    before = {path.name for path in shoot.folder.rglob("*.JPG")}
    shoot.decide(Decision.REJECT, "WIN_0001.JPG", "WIN_0002.JPG")
    assert shoot.apply(shoot.plan(PlanKind.HOLD_REJECTS)) is PlanState.APPLIED
    new = tmp_path / "elsewhere" / "Six"
    new.parent.mkdir()
    shoot.folder.rename(new)
    shoot.folder.with_name("Six (held back)").rename(new.with_name("Six (held back)"))
    known = shoots.get(shoot.desk.database.connection(), shoot.id)
    assert known is not None
    relocation.relocate(shoot.desk.database, known, new)
    shoot.list_again()
    assert len(shoot.rows()) == 4 and len(shoot.rows("held")) == 2
    assert shoot.apply(shoot.plan(PlanKind.BRING_BACK)) is PlanState.APPLIED
    assert {path.name for path in new.rglob("*.JPG")} == before
    assert not shoot.folder.exists() and not new.with_name("Six (held back)").exists()


def test_held_files_carried_back_by_hand(shoot: Shoot) -> None:
    shoot.decide(Decision.REJECT, "WIN_0001.JPG", "WIN_0002.JPG")
    before = shoot.rows()
    shoot.apply(shoot.plan(PlanKind.HOLD_REJECTS))
    holding = shoot.folder.with_name("Six (held back)") / "100WINNO"
    (holding / "WIN_0001.JPG").rename(shoot.folder / "saved.jpg")
    shoot.list_again()
    now = shoot.rows()
    assert now["saved.jpg"]["id"] == before["WIN_0001.JPG"]["id"]
    assert now["saved.jpg"]["decision"] == "reject", "carrying it back is not marking it"
    assert set(shoot.rows("held")) == {"WIN_0002.JPG"} and shoot.rows("missing") == {}


def test_tags_written_by_another_program(shoot: Shoot) -> None:
    shoot.mark(2, "WIN_0001.JPG")
    before, made = shoot.rows(), shoot.made()
    path = shoot.folder / "100WINNO" / "WIN_0001.JPG"
    subprocess.run(["exiftool", "-q", "-overwrite_original", "-XMP-dc:Subject=boat", path], check=True)
    shoot.list_again()
    now = shoot.rows()["WIN_0001.JPG"]
    assert (now["id"], now["rating"]) == (before["WIN_0001.JPG"]["id"], 2)
    assert shoot.made() == made, "the pixels are the same"


def test_turned_in_place(shoot: Shoot) -> None:
    """The pixels of the same exposure are others: the frame stays, and is measured again."""
    shoot.mark(2, "WIN_0001.JPG")
    before = shoot.rows()["WIN_0001.JPG"]
    path = shoot.folder / "100WINNO" / "WIN_0001.JPG"
    with Image.open(path) as picture:
        block = picture.getexif()
        turned = picture.transpose(Image.Transpose.ROTATE_90)
    turned.save(path, quality=90, exif=block)
    shoot.list_again()
    now = shoot.rows()["WIN_0001.JPG"]
    assert (now["id"], now["rating"]) == (before["id"], 2)
    assert (now["width"], now["height"]) == (before["height"], before["width"])
    assert now["version"] != before["version"] and now["faces"] is not None


def test_edits_of_pictures_without_camera_data(desk: Desk, tmp_path: Path) -> None:
    """Nothing but the picture can say whether it is still the same one."""
    folder = tmp_path / "exports"
    folder.mkdir()
    for n, name in enumerate(("edited", "replaced")):
        photographs.photograph(n + 4).save(folder / f"{name}.png")
    shoot = Shoot(desk, folder)
    shoot.mark(5, "edited.png", "replaced.png")
    ids = {name: row["id"] for name, row in shoot.rows().items()}
    brighter = np.clip(np.asarray(photographs.photograph(4), np.int16) + 12, 0, 255).astype(np.uint8)
    Image.fromarray(brighter).rotate(90, expand=True).save(folder / "edited.png")
    photographs.photograph(1).save(folder / "replaced.png")
    shoot.list_again()
    now = shoot.rows()
    assert now["edited.png"]["id"] == ids["edited.png"] and now["edited.png"]["rating"] == 5
    assert now["replaced.png"]["id"] != ids["replaced.png"] and now["replaced.png"]["rating"] == 0
    assert shoot.ratings("missing") == {"replaced.png": 5}


def test_the_raw_file_alone_shows_itself(desk: Desk, tmp_path: Path) -> None:
    """Without the JPEG of a pair, its preview and evidence do not stand for the RAW file."""
    folder = tmp_path / "pair"
    photographs.save(folder / "A_0001.JPG", 0)
    write_dng(folder / "A_0001.DNG", photographs.large(300, 200, 2))
    shoot = Shoot(desk, folder)
    shoot.mark(4, "A_0001.JPG")
    before = shoot.rows()["A_0001.JPG"]
    assert before["faces"] == 1
    (folder / "A_0001.JPG").unlink()
    shoot.list_again()
    now = shoot.rows()["A_0001.DNG"]
    assert (now["id"], now["rating"], now["roles"]) == (before["id"], 4, "raw")
    assert now["version"] != before["version"] and now["faces"] == 0
    with Image.open(desk.cache.path(tasks.Kind.PREVIEW, str(now["version"]))) as preview:
        assert preview.width == now["width"]


def test_the_same_content_twice_says_so(shoot: Shoot) -> None:
    card = shoot.folder / "100WINNO"
    shutil.copy2(card / "WIN_0001.JPG", shoot.folder / "again.jpg")
    shoot.list_again()
    copies = {name: row["copies"] for name, row in shoot.rows().items() if row["copies"]}
    assert copies == {"WIN_0001.JPG": 1, "again.jpg": 1}
    connection = shoot.desk.database.connection()
    ids = {row["id"] for name, row in shoot.rows().items() if name in copies}
    found, *_ = Census(shoot.id).look(connection, parse("copies", FIRST), FIRST)
    assert set(found) == ids
    (shoot.folder / "again.jpg").unlink()
    shoot.list_again()
    assert not any(row["copies"] for row in shoot.rows().values())


def flat_tiff(path: Path, middle: int) -> Path:
    """An uncompressed picture with broad white borders, as scanners write them: both ends are alike in all."""
    pixels = np.full((700, 600, 3), 255, np.uint8)
    pixels[250:450, 100:500] = np.asarray(photographs.photograph(middle).resize((400, 200)))
    Image.fromarray(pixels).save(path)
    return path


def test_files_that_differ_in_the_middle_alone(desk: Desk, tmp_path: Path) -> None:
    folder = tmp_path / "scans"
    folder.mkdir()
    for n in range(3):
        flat_tiff(folder / f"{n}.tif", n)
    assert len({path.read_bytes()[:65536] + path.read_bytes()[-65536:] for path in folder.iterdir()}) == 1
    shoot = Shoot(desk, folder)
    rows = shoot.rows()
    assert len({row["version"] for row in rows.values()}) == 3
    assert not any(row["copies"] for row in rows.values())
    shown = {
        name: np.asarray(Image.open(desk.cache.path(tasks.Kind.PREVIEW, str(row["version"]))))[350, 300]
        for name, row in rows.items()
    }
    for name, pixel in shown.items():
        wanted = np.asarray(Image.open(folder / name))[350, 300]
        assert np.abs(pixel.astype(int) - wanted).max() < 30, "each under its own picture"
    shoot.mark(3, "1.tif")
    flat_tiff(folder / "1.tif", 4)
    shoot.list_again()
    assert shoot.rows()["1.tif"]["version"] != rows["1.tif"]["version"]


def test_a_sidecar_left_from_another_exposure(desk: Desk, tmp_path: Path) -> None:
    folder = tmp_path / "card"
    photographs.save(folder / "A_0001.JPG", 0)
    (folder / "A_0001.xmp").write_bytes(xmp.write_marks(None, to_xmp(Marks(Decision.REJECT))))
    shoot = Shoot(desk, folder)
    assert shoot.rows()["A_0001.JPG"]["decision"] == "reject"
    photographs.save(folder / "A_0001.JPG", 2, second=700)
    shoot.list_again()
    assert shoot.rows()["A_0001.JPG"]["decision"] == "undecided"
    assert shoot.rows("missing")["A_0001.JPG"]["decision"] == "reject"


def test_unplugged_while_frames_are_prepared(desk: Desk, tmp_path: Path) -> None:
    folder = photographs.shoot(tmp_path / "many", 16, edge=photographs.WHOLE)
    shoot_id = desk.open_folder(str(folder))
    until(lambda: desk.engine.progress(shoot_id).measured >= 3)
    with pulled_out(folder):
        until(lambda: desk.engine.progress(shoot_id).state == "unreadable")
        assert "cannot be" in str(desk.engine.progress(shoot_id).message)
        rows = frames.summaries(desk.database.connection(), shoot_id)
        assert {(row["place"], row["problem"]) for row in rows} == {("shoot", None)}
    until(lambda: desk.engine.progress(shoot_id).state == "done")
    rows = frames.summaries(desk.database.connection(), shoot_id)
    assert all(row["faces"] is not None and row["problem"] is None for row in rows)
    assert len(evidence.measured_frames(desk.database.connection(), shoot_id)) == 16


def test_an_empty_mount_point_is_no_empty_shoot(desk: Desk, tmp_path: Path) -> None:
    """The disk is pulled out and its mount point stays: nothing is missing, the shoot waits."""
    place = tmp_path / "drive"
    with small_disk(place):
        shoot = Shoot(desk, photographs.shoot(place))
        shoot.mark(4, *shoot.rows())
    assert place.is_dir() and not any(place.iterdir())
    shoot.list_again()
    assert desk.engine.progress(shoot.id).state == "unreadable"
    assert list(shoot.ratings().values()) == [4] * 6 and shoot.rows("missing") == {}


def test_what_may_have_passed_is_tried_again(
    desk: Desk, measured_folder: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Crashed once: at the next opening; again: when asked. What is no picture: never."""
    (measured_folder / "letter.jpg").write_text("Dear diary")
    monkeypatch.setattr(tasks, "derive", crash.derive)
    monkeypatch.setattr(tasks, "prepare", crash.prepare)
    shoot = Shoot(desk, measured_folder)
    victim = f"{crash.VICTIM}.JPG"
    assert "crash" in str(shoot.rows()[victim]["problem"]) and shoot.rows()[victim]["again"]
    calls: list[str] = []
    read = desk.engine._intake.heads

    def watched(done: object, job: object, chunk: list[tasks.HeadTask]) -> None:
        calls.extend(Path(task.path).name for task in chunk)
        read(done, job, chunk)  # type: ignore[arg-type]

    monkeypatch.setattr(desk.engine._intake, "heads", watched)
    shoot.list_again()
    assert calls == [victim] and "crash" in str(shoot.rows()[victim]["problem"])
    shoot.list_again()
    assert calls == [victim], "it had its second chance"
    monkeypatch.undo()
    shoot.list_again(asked=True)
    now = shoot.rows()
    assert now[victim]["problem"] is None and now[victim]["faces"] is not None
    assert "holds text" in str(now["letter.jpg"]["problem"]) and not now["letter.jpg"]["again"]
