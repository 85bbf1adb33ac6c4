"""What it costs to bring frames in, to name them anew, and to keep their sidecars in step.

By hand: `python -m winnow.bench.files FOLDER`."""

from __future__ import annotations

import shutil
import subprocess
import time
from collections.abc import Iterator
from pathlib import Path

import typer

from winnow.bench.stepping import Line
from winnow.core.file_names import Naming
from winnow.core.history import BatchKind
from winnow.core.marks import Field, Value
from winnow.handoff import apply as applying
from winnow.handoff.draft import Wish
from winnow.handoff.plan import make_plan
from winnow.handoff.syncing import compared
from winnow.pipeline.reading import at_once
from winnow.pipeline.scan import list_folder
from winnow.store import frames, listing, marks, shoots
from winnow.store.database import DATABASE, Database
from winnow.store.plans import PlanKind

FRAMES, BYTES = 300, 9_000_000
"""On the card: as large as JPEGs of 24 megapixels are."""
RENAMED = 10_000
SIDECARS = 3_000
NOW = "2026-10-18T21:00:00.000+00:00"


def lines(folder: Path, count: int = FRAMES) -> Iterator[Line]:
    """(name, value, unit, bound, baseline). folder: an empty one, on the disk in question."""
    card = folder / "card" / "DCIM" / "100BENCH"
    card.mkdir(parents=True)
    for number in range(count):
        with Path("/dev/urandom").open("rb") as noise:
            (card / f"BEN_{number:04d}.JPG").write_bytes(noise.read(BYTES))
    subprocess.run(["sync"], check=True)
    start = time.perf_counter()
    subprocess.run(["cp", "-r", "--preserve", card.parent, folder / "plain"], check=True)
    for side in (card.parent, folder / "plain"):
        files = sorted(side.rglob("*.JPG"))
        subprocess.run(["sha256sum", "--", *files], stdout=subprocess.DEVNULL, check=True)
    plain_s = time.perf_counter() - start
    shutil.rmtree(folder / "plain")
    database = Database(folder / "data" / DATABASE)
    asked = f"cp and sha256sum of both sides: {plain_s:.1f} s for {count} files of {BYTES / 1e6:.0f} MB"
    for name, second in (("one copy", None), ("two copies at once", str(folder / "second"))):
        took = _bring_in(database, card.parent, folder / "first", second)
        bound = plain_s / 0.9 if second is None else None
        yield f"from a card, {name}, verified", took, "s", bound, asked
        for made in ("first", "second"):
            shutil.rmtree(folder / made, ignore_errors=True)
    yield from _renaming(database, folder / "shoot")
    yield from _syncing(database, folder / "synced")


def _bring_in(database: Database, source: Path, target: Path, second: str | None) -> float:
    with database.transaction() as connection:
        shoot_id = shoots.open_folder(connection, target, NOW)
    start = time.perf_counter()
    wish = Wish(PlanKind.IMPORT, str(target), source=str(source), keep_folders=True, second=second)
    state = applying.apply(database, make_plan(database, shoot_id, wish, NOW))
    took = time.perf_counter() - start
    if state != "applied":
        raise RuntimeError(f"the import is {state}")
    return took


def _listed(database: Database, folder: Path, count: int) -> tuple[int, ...]:
    """A shoot of frames that are only listed."""
    card = folder / "100BENCH"
    card.mkdir(parents=True)
    for number in range(count):
        (card / f"BEN_{number:05d}.JPG").write_bytes(b"%d" % number)
    with database.transaction() as connection:
        shoot_id = shoots.open_folder(connection, folder, NOW)
        folder_id = connection.execute("SELECT id FROM folder WHERE shoot_id = ?", (shoot_id,)).fetchone()[0]
        listed = [(folder_id, frame) for frame in list_folder(str(folder)).frames]
        listing.reconcile(connection, shoot_id, listed, {}, 1)
    return tuple(i for i, _ in frames.placed(database.connection(), shoot_id))


def _renaming(database: Database, folder: Path) -> Iterator[Line]:
    ids = _listed(database, folder, RENAMED)
    shoot_id = frames.owners(database.connection(), ids[:1])[ids[0]]
    start = time.perf_counter()
    wish = Wish(PlanKind.RENAME, frames=ids, naming=Naming("kiln_{counter:5}"))
    plan_id = make_plan(database, shoot_id, wish, NOW)
    made = time.perf_counter()
    applying.apply(database, plan_id)
    ended = time.perf_counter()
    asked = f"{RENAMED} frames, a sidecar for each"
    yield "other names: the plan made", made - start, "s", 3, asked
    yield "other names: the plan applied", ended - made, "s", 5, asked


def _syncing(database: Database, folder: Path) -> Iterator[Line]:
    """Sidecars written, and compared after another program has changed one in three."""
    ids = _listed(database, folder, SIDECARS)
    with database.transaction() as connection:
        shoot_id = frames.owners(connection, ids[:1])[ids[0]]
        wanted: dict[int, dict[Field, Value]] = {
            i: {Field.RATING: 1 + i % 5, Field.LABEL: "Retouch"} for i in ids
        }
        marks.set_marks(
            connection, shoot_id, wanted, kind=BatchKind.MARK, actor="person", title="all", now=NOW
        )
    start = time.perf_counter()
    applying.apply(database, make_plan(database, shoot_id, Wish(PlanKind.WRITE_SIDECARS), NOW))
    yield "sidecars written and verified", time.perf_counter() - start, "s", 20, f"{SIDECARS} sidecars"
    sidecars = sorted(folder.rglob("*.xmp"))
    for path in sidecars[::3]:
        path.write_bytes(path.read_bytes().replace(b"Retouch", b"Album"))
    start = time.perf_counter()
    read = sum(len(path.read_bytes()) for path in sidecars)
    plain_s = time.perf_counter() - start
    start = time.perf_counter()
    found = compared(database, at_once, shoot_id)
    took = time.perf_counter() - start
    if len(found.rows) != len(sidecars[::3]):
        raise RuntimeError(f"{len(found.rows)} differences instead of {len(sidecars[::3])}")
    yield (
        "marks held against the disk",
        took,
        "s",
        5,
        f"reading the {read / 1e6:.1f} MB alone: {plain_s:.2f} s",
    )


def main(folder: Path, count: int = FRAMES) -> None:
    """Measure in a folder, which is made and removed."""
    folder.mkdir()
    try:
        for name, value, unit, bound, baseline in lines(folder, count):
            typer.echo(f"{name:44} {value:8.2f} {unit} {f'≤ {bound:.2f}' if bound else '':10} {baseline}")
    finally:
        shutil.rmtree(folder)


if __name__ == "__main__":
    typer.run(main)
