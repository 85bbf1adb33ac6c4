"""Fixtures that several folders of tests share."""

from __future__ import annotations

import json
import os
import subprocess
import sys
from collections.abc import Callable, Iterator
from concurrent.futures import Future, wait
from itertools import cycle
from pathlib import Path
from typing import Any

import pytest
from filelock import FileLock

from tests import photographs
from tests.server import Server, running
from winnow.api.desk import Desk
from winnow.demo.layout import shipped_frames
from winnow.pipeline import engine
from winnow.pipeline.tasks import use_one_thread
from winnow.pipeline.workers import Worker, worker_count

# As in the processes that measure: what is measured here takes half of the processor's time then.
use_one_thread()


@pytest.hookimpl(optionalhook=True)
def pytest_xdist_auto_num_workers() -> int:
    """One more than there are processors: now and then a test waits for a page or a process."""
    return (os.cpu_count() or 1) + 1


@pytest.fixture
def shoot_folder(tmp_path: Path) -> Path:
    """A folder of six small frames of two real photographs."""
    return photographs.shoot(tmp_path / "shoots" / "Six")


@pytest.fixture
def measured_folder(tmp_path: Path) -> Path:
    """A folder of six frames of two real photographs, large enough to be measured."""
    return photographs.shoot(tmp_path / "shoots" / "Six", edge=photographs.WHOLE)


class Lent(Worker):
    """A worker process that outlives the engine it works for: starting one takes longer than most tests."""

    def __init__(self, lender: Worker) -> None:
        self._lender = lender
        self._last: Future[Any] | None = None

    def run(self, function: Callable[..., Any], *arguments: Any) -> Future[Any]:
        self._last = self._lender.run(function, *arguments)
        return self._last

    def stop(self) -> None:
        if self._last is not None:
            wait([self._last])

    def kill(self) -> None:
        self._lender.kill()


@pytest.fixture(scope="session")
def worker_processes() -> Iterator[list[Worker]]:
    """The worker processes of all desks."""
    workers = [Worker() for _ in range(worker_count())]
    yield workers
    for worker in workers:
        worker.stop()


@pytest.fixture
def desk(
    tmp_path: Path,
    worker_processes: list[Worker],
    monkeypatch: pytest.MonkeyPatch,
    request: pytest.FixtureRequest,
) -> Iterator[Desk]:
    """A desk with its engine running, allowed to open anything below the test's own folder. It lists when it is told
    to, unless a test asks for it to watch: `pytest.mark.watching`."""
    lent = cycle(worker_processes)
    monkeypatch.setattr(engine, "Worker", lambda: Lent(next(lent)))
    watching = request.node.get_closest_marker("watching") is not None
    desk = Desk.set_up(tmp_path / "data", [tmp_path], watching=watching)
    desk.start()
    yield desk
    desk.stop()


@pytest.fixture(scope="session")
def server(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Server]:
    """`winnow serve`, one for all tests that open folders of their own and leave nothing behind that others could
    meet. Shoots have other numbers than 1."""
    data = tmp_path_factory.mktemp("shared") / "data"
    with running(data, root=tmp_path_factory.getbasetemp()) as server:
        yield server


@pytest.fixture
def lone_server(tmp_path: Path) -> Iterator[Server]:
    """`winnow serve` as a process of its own, on `tmp_path / "data"`."""
    with running(tmp_path / "data", root=tmp_path) as server:
        yield server


@pytest.fixture(scope="session")
def idle_server(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Server]:
    """A server for tests that only look: one for all of them."""
    folder = tmp_path_factory.mktemp("idle")
    with running(folder / "data", root=folder) as server:
        yield server


@pytest.fixture(scope="session")
def demo_report(tmp_path_factory: pytest.TempPathFactory, testrun_uid: str) -> dict[str, Any]:
    """What `winnow analyse` says of the demo shoot, blur maps included. Takes a minute or so: once for all processes
    of a run."""
    target = tmp_path_factory.getbasetemp().parent / f"report-{testrun_uid}.json"
    with FileLock(f"{target}.lock"):
        if not target.exists():
            command = [
                sys.executable,
                "-m",
                "winnow",
                "analyse",
                shipped_frames(),
                "--json",
                target,
                "--maps",
            ]
            assert subprocess.run(command, stderr=subprocess.PIPE).returncode == 0
    report: dict[str, Any] = json.loads(target.read_text())
    return report
