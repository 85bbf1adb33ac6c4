"""What large shoots and many people cost: marks and views over 10,000 and 50,000 frames with a long journal, pages
of frames, 64 pictures asked for at once that are not prepared, and 20 people who step through previews.

By hand: `python -m winnow.bench.scale FOLDER`.
"""

from __future__ import annotations

import itertools
import json
import threading
import time
import urllib.error
import urllib.request
from collections.abc import Callable, Iterator
from concurrent.futures import ProcessPoolExecutor, ThreadPoolExecutor
from http.client import HTTPConnection
from itertools import repeat
from multiprocessing import get_context
from pathlib import Path
from statistics import median
from urllib.parse import quote

import typer

from winnow.bench.figures import percentile
from winnow.bench.frames import make_large_shoot
from winnow.bench.serving import get, post, serving
from winnow.core.history import BatchKind
from winnow.core.marks import Decision, Field, Value
from winnow.store import frames, listing, marks, shoots
from winnow.store.database import DATABASE, Database
from winnow.store.frame_files import ListedFile, ListedFrame

SIZES = {10_000: (5, 20), 50_000: (15, 60)}
"""Frames: bounds of a mark and of a view, ms."""
JOURNAL = 25_000
MARKS, VIEWS = 200, 30
GLIMPSES = 64
PEOPLE, A_SECOND = 20, 4
"""Who step through previews, each so many a second."""
STEPPING_S = 20
WARM_UP_S = 4
"""Worker processes start beside the server, and take the processor for that."""
NOW = "2026-10-17T20:00:00.000+00:00"
QUESTIONS = (
    "",
    "keepers",
    "undecided or keepers, 3 stars or more",
    "keepers, 3 stars or more, 50–105 mm, eyes open, not labelled",
    "blur 0.5–1.2 px, groups without a keeper, f/1.4–2.8",
    "name 0001, unwritten marks",
    "not with faces, at 16:00–18:00, ISO 100–800 or ISO 3200 or more",
)

Line = tuple[str, float, str, float | None, str]
"""name, value, unit, bound, baseline"""


def lines(folder: Path) -> Iterator[Line]:
    """All figures; fills a folder."""
    for count, (mark_ms, view_ms) in SIZES.items():
        yield from _answers(folder / f"scale-{count}", count, mark_ms, view_ms)
    yield from _glimpses(folder)
    yield from _people(folder)


def _answers(folder: Path, count: int, mark_ms: float, view_ms: float) -> Iterator[Line]:
    """Answers over HTTP, beside the smallest answer there is; over one open line, as from a browser."""
    ids = _fill(folder / "data", folder / "none", count)
    with serving(folder / "data", folder) as address:
        line = Connection(address)
        turns = itertools.count()

        def mark() -> None:
            n = next(turns)
            line.ask("POST", "/marks", {"frame_ids": [ids[n * 37 % count]], "rating": 1 + n % 5})

        def step(way: str) -> None:
            action = json.loads(line.ask("GET", "/actions"))[way]
            line.ask("POST", f"/{way}", {"batch": action["batch"]})

        def view(number: int) -> float:
            # As the interface asks: after a mark.
            mark()
            return _seconds(line.ask, "GET", f"/view?show={quote(QUESTIONS[number % len(QUESTIONS)])}")

        def question(number: int) -> float:
            # A filter that was not asked for before: its view, and all counts beside it.
            show = quote(QUESTIONS[number % len(QUESTIONS)])
            mark()
            view_s = _seconds(line.ask, "GET", f"/view?show={show}")
            return view_s + _seconds(line.ask, "GET", f"/facets?show={show}")

        line.ask("GET", "/view")
        time.sleep(WARM_UP_S)
        least = median(_seconds(line.ask, "GET", "/nothing") for _ in range(50))
        base = f"an empty answer {1000 * least:.1f} ms; {JOURNAL:,} entries in the journal"
        marked = [_seconds(mark) for _ in range(MARKS)]
        asked = [view(number) for number in range(VIEWS * len(QUESTIONS))]
        counted = [question(number) for number in range(VIEWS * len(QUESTIONS))]
        undone = [_seconds(step, way) for way in ["undo", "redo"] * 30]
        pages = [_seconds(line.ask, "GET", "/frames") for _ in range(10)]
        card = [_seconds(line.ask, "GET", "") for _ in range(20)]
    of = f"of {count:,} frames"
    yield f"a mark {of}, median", 1000 * median(marked), "ms", mark_ms, base
    yield f"a mark {of}, 95th percentile", 1000 * percentile(marked, 95), "ms", None, base
    yield f"a view {of} after a mark, median", 1000 * median(asked), "ms", view_ms, base
    yield f"a view {of} after a mark, 95th percentile", 1000 * percentile(asked, 95), "ms", None, base
    yield f"a filter {of} with all its counts, median", 1000 * median(counted), "ms", None, base
    name = f"a filter {of} with all its counts, 95th percentile"
    yield name, 1000 * percentile(counted, 95), "ms", view_ms, base
    yield f"undo and redo {of}, median, two requests", 1000 * median(undone), "ms", None, base
    yield f"a page of 2,000 {of}, median", 1000 * median(pages), "ms", None, base
    yield f"the card of a shoot {of}, median", 1000 * median(card), "ms", None, base


class Connection:
    """One open line to the server, for questions about shoot 1."""

    def __init__(self, address: str) -> None:
        self._line = HTTPConnection(address.removeprefix("http://"), timeout=60)

    def ask(self, method: str, path: str, body: object = None) -> bytes:
        headers = {"Content-Type": "application/json"} if body is not None else {}
        data = json.dumps(body) if body is not None else None
        self._line.request(method, f"/api/shoots/1{path}", data, headers)
        return self._line.getresponse().read()


def _fill(data: Path, none: Path, count: int) -> list[int]:
    """A shoot of frames that are nowhere, with marks and a journal."""
    none.mkdir(parents=True)
    database = Database(data / DATABASE)
    with database.transaction() as connection:
        shoot_id = shoots.open_folder(connection, none, NOW)
        listed = [
            ListedFrame(f"{n}.jpg", f"/{n}.jpg", f"{n:08x}", (ListedFile(f"/{n}.jpg", "picture", 1, 1),))
            for n in range(count)
        ]
        listing.reconcile(connection, shoot_id, [(1, frame) for frame in listed], {}, 1)
        ids = [row["id"] for row in frames.summaries(connection, shoot_id)]
        connection.execute(
            """UPDATE frame SET frame_group = id / 4, scene = id / 400, warnings = iif(id % 9, '', 'soft eyes'),
               faces = id % 4, looks = iif(id % 3, 'open', 'closed away'), sigma = 0.4 + id % 977 / 300.0,
               light = id % 91 / 30.0 - 1.5, focal_mm = 24 + id % 82, aperture = 1.4 * (1 + id % 5),
               shutter_s = 1.0 / (30 + id % 800), iso = 100 * (1 + id % 60), camera = 'Tarn ' || id % 3,
               serial = id % 3, lens = 'Tarn ' || id % 5, width = 6000, height = 4000,
               captured_at = strftime('%Y-%m-%dT%H:%M:%S', 1792254600 + id, 'unixepoch')"""
        )

        def act(wanted: dict[int, dict[Field, Value]]) -> None:
            marks.set_marks(
                connection, shoot_id, wanted, kind=BatchKind.MARK, actor="person", title="t", now=NOW
            )

        act({i: {Field.DECISION: list(Decision)[i % 3].value, Field.RATING: i % 6} for i in ids})
        for n in range(JOURNAL):
            act({ids[n % count]: {Field.LABEL: f"label {n % 41}"}})
    return ids


def _glimpses(folder: Path) -> Iterator[Line]:
    """64 pictures of 24 megapixels asked for at once, none of them prepared, and marks meanwhile."""
    make_large_shoot(folder / "glimpsed", GLIMPSES, distinct=12)
    with serving(folder / "glimpse-data", folder) as address:
        post(f"{address}/api/shoots", {"path": str(folder / "glimpsed")})
        url = f"{address}/api/shoots/1"
        found: list[dict[str, int]] = []
        while len(found) < GLIMPSES:
            found = get(f"{url}/frames")["frames"]
        line = Connection(address)

        def mark(n: int) -> None:
            line.ask("POST", "/marks", {"frame_ids": [found[n % GLIMPSES]["id"]], "rating": 1 + n % 5})

        alone = [_seconds(mark, n) for n in range(40)]
        threads = [
            threading.Thread(target=_look, args=(f"{address}/api/pictures/{f['id']}/{f['version']}/glimpse",))
            for f in found
        ]
        for thread in threads:
            thread.start()
        start = time.perf_counter()
        took: list[float] = []
        while any(thread.is_alive() for thread in threads):
            took.append(_seconds(mark, len(took)))
            time.sleep(0.01)
        all_s = time.perf_counter() - start
    base = f"before them: median {1000 * median(alone):.1f} ms, p95 {1000 * percentile(alone, 95):.1f} ms"
    yield f"{GLIMPSES} glimpses at once, all of them", all_s, "s", None, ""
    yield "a mark meanwhile, 95th percentile", 1000 * percentile(took, 95), "ms", 50, base
    yield "a mark meanwhile, the longest", 1000 * max(took), "ms", None, base


def _people(folder: Path) -> Iterator[Line]:
    """Many people step through the previews of the same shoot, which is prepared, and marks meanwhile."""
    with serving(folder / "glimpse-data", folder) as address:
        post(f"{address}/api/shoots", {"path": str(folder / "glimpsed")})
        while get(f"{address}/api/shoots/1")["progress"]["state"] != "done":
            time.sleep(0.5)
        found = get(f"{address}/api/shoots/1/frames")["frames"]
        paths = [f"/api/pictures/{frame['id']}/{frame['version']}/preview" for frame in found]

        def mark(n: int) -> None:
            line.ask("POST", "/marks", {"frame_ids": [found[n % GLIMPSES]["id"]], "rating": 1 + n % 5})

        # Who asks is a process of its own, as a browser is.
        with ProcessPoolExecutor(1, mp_context=get_context("spawn")) as browsers:
            most, size, _ = browsers.submit(_step, address, paths, 0).result()
            line = Connection(address)  # one that is idle for long is closed
            alone = [_seconds(mark, n) for n in range(100)]
            stepping = browsers.submit(_step, address, paths, A_SECOND)
            took: list[float] = []
            while not stepping.done():
                took.append(_seconds(mark, len(took)))
                time.sleep(0.05)
            given, _, late_ms = stepping.result()
    base = f"{size / 1e6:.2f} MB each; asking takes its part of the same processors"
    yield f"previews to {PEOPLE} people, as many as it can", most, "/s", PEOPLE * A_SECOND, base
    yield f"previews to {PEOPLE} people, {A_SECOND} a second each", given, "/s", None, base
    yield "from asking to having one, 95th percentile", late_ms, "ms", None, base
    base = f"before them: median {1000 * median(alone):.1f} ms, p95 {1000 * percentile(alone, 95):.1f} ms"
    yield "a mark meanwhile, 95th percentile", 1000 * percentile(took, 95), "ms", 50, base


def _step(address: str, paths: list[str], a_second: float) -> tuple[float, float, float]:
    """(pictures a second, bytes of a picture, 95th percentile of the time for one, ms) of all people together.
    a_second: of each; 0: one after another without a pause."""
    with ThreadPoolExecutor(PEOPLE) as people:
        each = people.map(_step_alone, repeat(address), repeat(paths), range(PEOPLE), repeat(a_second))
        seen = [picture for pictures in each for picture in pictures]
    sizes, times = zip(*seen, strict=True)
    return len(seen) / STEPPING_S, sum(sizes) / len(seen), 1000 * percentile(list(times), 95)


def _step_alone(address: str, paths: list[str], person: int, a_second: float) -> list[tuple[int, float]]:
    """(bytes, seconds) of each picture that one person saw."""
    line = HTTPConnection(address.removeprefix("http://"), timeout=60)
    seen: list[tuple[int, float]] = []
    start = time.perf_counter()
    # Nobody presses at the same moment as all others.
    due = start + person / PEOPLE / max(a_second, 1)
    while due < start + STEPPING_S and time.perf_counter() < start + STEPPING_S:
        time.sleep(max(0.0, due - time.perf_counter()))
        asked = time.perf_counter()
        line.request("GET", paths[(person * 7 + len(seen)) % len(paths)])
        seen.append((len(line.getresponse().read()), time.perf_counter() - asked))
        due = due + 1 / a_second if a_second else time.perf_counter()
    return seen


def _look(address: str) -> None:
    try:
        with urllib.request.urlopen(address) as answer:
            answer.read()
    except urllib.error.HTTPError:
        pass  # its version became known meanwhile


def _seconds(act: Callable[..., object], *arguments: object) -> float:
    start = time.perf_counter()
    act(*arguments)
    return time.perf_counter() - start


def main(folder: Path) -> None:
    """Measure in a folder that may be filled."""
    for name, value, unit, bound, baseline in lines(folder):
        shown = f"≤ {bound:g}" if bound else ""
        typer.echo(f"{name:58} {value:9.2f} {unit:6} {shown:8} {baseline}")


if __name__ == "__main__":
    typer.run(main)
