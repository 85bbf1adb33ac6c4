"""What it costs to bring frames in and to name them anew. By hand: `python -m winnow.bench.files FOLDER`."""

from __future__ import annotations

import shutil
import subprocess
import time
from collections.abc import Iterator
from pathlib import Path

import typer

from winnow.bench.stepping import Line
from winnow.core.file_names import Naming
from winnow.handoff import apply as applying
from winnow.handoff.draft import Wish
from winnow.handoff.plan import make_plan
from winnow.pipeline.scan import list_folder
from winnow.store import frames, listing, shoots
from winnow.store.database import DATABASE, Database
from winnow.store.plans import PlanKind

FRAMES, BYTES = 300, 9_000_000
"""On the card: as large as JPEGs of 24 megapixels are."""
RENAMED = 10_000
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


def _renaming(database: Database, folder: Path) -> Iterator[Line]:
    card = folder / "100BENCH"
    card.mkdir(parents=True)
    for number in range(RENAMED):
        (card / f"BEN_{number:05d}.JPG").write_bytes(b"%d" % number)
    with database.transaction() as connection:
        shoot_id = shoots.open_folder(connection, folder, NOW)
        folder_id = connection.execute("SELECT id FROM folder WHERE shoot_id = ?", (shoot_id,)).fetchone()[0]
        listed = [(folder_id, frame) for frame in list_folder(str(folder)).frames]
        listing.reconcile(connection, shoot_id, listed, {}, 1)
    ids = tuple(i for i, _ in frames.placed(database.connection(), shoot_id))
    start = time.perf_counter()
    wish = Wish(PlanKind.RENAME, frames=ids, naming=Naming("kiln_{counter:5}"))
    plan_id = make_plan(database, shoot_id, wish, NOW)
    made = time.perf_counter()
    applying.apply(database, plan_id)
    ended = time.perf_counter()
    asked = f"{RENAMED} frames, a sidecar for each"
    yield "other names: the plan made", made - start, "s", 3, asked
    yield "other names: the plan applied", ended - made, "s", 5, asked


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
