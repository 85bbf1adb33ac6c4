"""What trust costs: planning 10,000 frames while marks go on, and finding a shoot again that lies elsewhere.

By hand, the first of the two: `python -m winnow.bench.trust FOLDER`.
"""

from __future__ import annotations

import threading
import time
from collections.abc import Callable
from pathlib import Path
from statistics import median

import typer

from winnow.bench.figures import percentile
from winnow.bench.serving import get, post, serving
from winnow.core.history import BatchKind
from winnow.core.marks import Decision, Field, Value
from winnow.core.xmp_marks import XmpMarks
from winnow.formats import xmp
from winnow.pipeline.scan import list_folder
from winnow.store import frames, listing, marks, shoots
from winnow.store.database import DATABASE, Database

PLANNED = 10_000
MARK_EVERY_S = 0.04
ALONE_S = 4.0
EDGE_BYTES = 64 * 1024

Line = tuple[str, float, str, float | None, str]
"""name, value, unit, bound, baseline"""


def planning(folder: Path) -> list[Line]:
    """Plans of 10,000 keepers, half of them with a sidecar, and how long marks take meanwhile."""
    data, shoot = folder / "plan-data", folder / "planned"
    ids = _many_frames(data, shoot)
    least = _look_once(shoot)
    lines: list[Line] = []
    with serving(data, folder) as address:
        url = f"{address}/api/shoots/1"

        def mark() -> None:
            # A frame that no plan is made of: undecided, it stays so.
            post(f"{url}/marks", {"frame_ids": [ids[-1]], "rating": int(time.monotonic() * 1000) % 6})

        alone = _while(mark, lambda: time.sleep(ALONE_S))
        base = (
            f"without a plan: median {1000 * median(alone):.1f} ms, p95 {1000 * percentile(alone, 95):.1f} ms"
        )
        for kind in ("copy-keepers", "write-sidecars"):
            wish = {"kind": kind, "target": str(folder / "keepers") if kind == "copy-keepers" else None}
            took: list[float] = []

            def plan(wish: dict[str, str | None] = wish, took: list[float] = took) -> None:
                start = time.perf_counter()
                answer = post(f"{url}/plans", wish)
                took.append(time.perf_counter() - start)
                assert answer["frames"] >= PLANNED - 1, answer

            beside = _while(mark, plan)
            lines += [
                (
                    f"{kind} planned for {PLANNED:,} frames",
                    took[0],
                    "s",
                    3,
                    least,
                ),
                (
                    f"mark while {kind} is planned, 95th percentile",
                    1000 * percentile(beside, 95),
                    "ms",
                    30,
                    base,
                ),
            ]
    return lines


def _look_once(folder: Path) -> str:
    """The least that planning takes: every file looked at, every sidecar read and parsed, in one thread."""
    start = time.perf_counter()
    for path in folder.rglob("*.*"):
        path.stat()
        if path.suffix == ".xmp":
            xmp.read_marks(path.read_bytes())
    return f"files looked at, sidecars parsed once: {time.perf_counter() - start:.1f} s"


def moved(address: str, folder: Path, count: int, previews: Path) -> list[Line]:
    """The shoot of `folder`, prepared on the server at `address`, carried elsewhere, all sub-folders renamed."""
    ends = _read_ends(folder)
    made = len(list(previews.glob("??/*.jpg")))
    new = folder.with_name("carried elsewhere")
    folder.rename(new)
    for sub in [path for path in new.iterdir() if path.is_dir()]:
        sub.rename(sub.with_name(f"renamed {sub.name}"))
    start = time.perf_counter()
    post(f"{address}/api/shoots/1/whereabouts", {"path": str(new)})
    while True:
        card = get(f"{address}/api/shoots/1")
        if card["progress"]["state"] == "done" and not card["gone"]:
            break
        time.sleep(0.05)
    took = time.perf_counter() - start
    assert (card["frames"], card["missing"], card["progress"]["measured"]) == (count, 0, count), card
    assert len(list(previews.glob("??/*.jpg"))) == made, "something was made again"
    baseline = f"both ends of every file read once: {ends:.1f} s; nothing measured, no preview made"
    return [(f"a moved shoot of {count:,} frames open again", took, "s", 10, baseline)]


def _read_ends(folder: Path) -> float:
    start = time.perf_counter()
    for path in folder.rglob("*.JPG"):
        with path.open("rb") as file:
            file.read(EDGE_BYTES)
            file.seek(-EDGE_BYTES, 2)
            file.read(EDGE_BYTES)
    return time.perf_counter() - start


def _many_frames(data: Path, folder: Path) -> list[int]:
    """Ten thousand frames as listed, kept and rated by a person; every other one has a sidecar with the settings of
    a development."""
    settings = b'<rdf:Description xmlns:dev="urn:example:dev/" dev:Exposure="+0.5" dev:Contrast="12"'
    packet = xmp.write_marks(None, XmpMarks()).replace(b"<rdf:Description", settings)
    for n in range(PLANNED + 1):
        path = folder / f"{100 + n // 1000}PLAN" / f"PLN_{n:05d}.JPG"
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_bytes(b"\xff\xd8" + n.to_bytes(4, "big"))
        if n % 2:
            path.with_suffix(".xmp").write_bytes(packet)
    database = Database(data / DATABASE)
    with database.transaction() as connection:
        shoot_id = shoots.open_folder(connection, folder, "2026-10-17")
        found = [(1, frame) for frame in list_folder(str(folder)).frames]
        listing.reconcile(connection, shoot_id, found, {}, 1)
        ids = [row["id"] for row in frames.summaries(connection, shoot_id)]
        keep: dict[Field, Value] = {Field.DECISION: Decision.KEEP.value, Field.RATING: 3}
        marks.set_marks(
            connection, shoot_id, dict.fromkeys(ids[:-1], keep),
            kind=BatchKind.MARK, actor="person", title="all", now="2026-10-17T20:00:00.000+00:00",
        )  # fmt: skip
    return ids


def _while(act: Callable[[], None], work: Callable[[], None]) -> list[float]:
    """Seconds of each of the acts, one after another at the pace of a fast hand, while some work goes on."""
    taken: list[float] = []
    working = threading.Thread(target=work)
    working.start()
    while working.is_alive():
        start = time.perf_counter()
        act()
        taken.append(time.perf_counter() - start)
        time.sleep(max(0.0, MARK_EVERY_S - taken[-1]))
    working.join()
    return taken


def main(folder: Path) -> None:
    """Measure planning in a folder that may be filled."""
    for name, value, unit, bound, baseline in planning(folder):
        typer.echo(f"{name:58} {value:9.2f} {unit:6} ≤ {bound:g} {baseline}")


if __name__ == "__main__":
    typer.run(main)
