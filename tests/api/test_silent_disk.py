"""A disk that hangs, as a network share does whose server is gone: calls below one folder take 9 s each. (A library
that is preloaded into the server delays them: ld.so(8), LD_PRELOAD.)"""

from __future__ import annotations

import signal
import subprocess
import time
from collections.abc import Callable, Iterator
from pathlib import Path

import pytest

from tests import photographs
from tests.concurrently import at_once
from tests.server import Server, start

SILENT_S = 9


@pytest.fixture(scope="module")
def library(tmp_path_factory: pytest.TempPathFactory) -> Path:
    built = tmp_path_factory.mktemp("silent") / "silent_disk.so"
    source = Path(__file__).parents[1] / "silent_disk.c"
    subprocess.run(["gcc", "-shared", "-fPIC", "-O1", "-w", source, "-o", built, "-ldl"], check=True)
    return built


@pytest.fixture
def silent(library: Path, tmp_path: Path) -> Iterator[tuple[Server, int, int, Callable[[], None]]]:
    """A server, a shoot on the disk that can be made silent, one on another, and what makes it silent."""
    share, flag = tmp_path / "share", tmp_path / "silent"
    environment = {
        "LD_PRELOAD": str(library), "SILENT_BELOW": str(share), "SILENT_WHEN": str(flag), "SILENT_S": str(SILENT_S)
    }  # fmt: skip
    server = start(tmp_path / "data", "--root", str(tmp_path), **environment)
    try:
        far = server.open(photographs.shoot(share / "Far"))
        near = server.open(photographs.shoot(tmp_path / "Near"))
        yield server, far, near, flag.touch
    finally:
        flag.unlink(missing_ok=True)
        server.process.send_signal(signal.SIGINT)
        server.process.wait(60)


def took(act: Callable[[], object]) -> float:
    start = time.perf_counter()
    act()
    return time.perf_counter() - start


def test_marks_and_prepared_pictures_do_not_wait_for_it(
    silent: tuple[Server, int, int, Callable[[], None]],
) -> None:
    """In its own shoot and in others, while sixty pictures of it are asked for that are not prepared. A tenth of what
    one call takes is the bound."""
    server, far, near, be_silent = silent
    frames = {shoot: server.frames(shoot) for shoot in (far, near)}

    def mark(shoot: int) -> None:
        server.post(f"/api/shoots/{shoot}/marks", {"frame_ids": [frames[shoot][0]["id"]], "rating": 3})

    def picture(kind: str) -> int:
        frame = frames[far][1]
        return server.request("GET", f"/api/pictures/{frame['id']}/{frame['version']}/{kind}")[0]

    be_silent()
    asked = [lambda: float(picture("first"))] * 60
    work = [took(lambda s=shoot: mark(s)) for shoot in (far, near)]  # type: ignore[misc]
    beside = at_once([*asked, lambda: took(lambda: mark(near)), lambda: took(lambda: mark(far)),
                      lambda: took(lambda: picture("preview"))])  # fmt: skip
    work += beside[-3:]
    assert max(work) < SILENT_S / 10, work
    assert picture("preview") == 200
    assert set(beside[:60]) == {404.0}


def test_the_list_says_which_disk_does_not_answer(
    silent: tuple[Server, int, int, Callable[[], None]],
) -> None:
    server, far, near, be_silent = silent
    be_silent()
    assert took(lambda: server.get("/api/shoots")) < SILENT_S / 2
    cards = {card["id"]: card for card in server.get("/api/shoots")["shoots"]}
    assert cards[far]["silent"] and cards[far]["gone"] and not cards[near]["gone"]
    assert took(lambda: server.get("/api/search?text=win")) < SILENT_S / 10
