"""Measured on other machines, the same comes out to the last bit: on a real scheduler of dask.distributed with two
workers, of which one is killed, and the scheduler too."""

from __future__ import annotations

import re
import signal
import subprocess
import sys
from collections.abc import Iterator
from dataclasses import dataclass, field, replace
from pathlib import Path

import psutil
import pytest

from tests import photographs
from tests.commands import winnow
from tests.server import until
from winnow.pipeline import far, tasks
from winnow.pipeline.far import ClusterError, Far, FarLostError
from winnow.pipeline.report import analyse
from winnow.pipeline.tasks import DeriveTask, PrepareTask

DASK = Path(sys.executable).with_name("dask")
FRAMES = 12


@dataclass
class Cluster:
    """A scheduler and its workers, each a process of its own, as on other machines."""

    folder: Path
    processes: list[subprocess.Popen[bytes]] = field(default_factory=list)
    address: str = ""

    def start(self, *words: str) -> Path:
        log = self.folder / f"{len(self.processes)}.log"
        with log.open("wb") as out:
            self.processes.append(
                subprocess.Popen([DASK, *words, "--no-dashboard"], stdout=out, stderr=out, cwd=self.folder)
            )
        return log

    def add_worker(self, *words: str) -> None:
        log = self.start("worker", self.address, "--nthreads", "1", *words)
        until(lambda: "Registered to" in log.read_text())

    def kill(self, number: int) -> None:
        """`kill -9`, what it started included."""
        process = psutil.Process(self.processes[number].pid)
        for one in [*process.children(recursive=True), process]:
            one.send_signal(signal.SIGKILL)
        self.processes[number].wait()

    def stop(self) -> None:
        for number, process in enumerate(self.processes):
            if process.poll() is None:
                self.kill(number)


@pytest.fixture(scope="module")
def cluster(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Cluster]:
    cluster = Cluster(tmp_path_factory.mktemp("cluster"))
    log = cluster.start("scheduler", "--host", "127.0.0.1", "--port", "0")
    until(lambda: re.search(r"Scheduler at: +(tcp://\S+)", log.read_text()))
    found = re.search(r"Scheduler at: +(tcp://\S+)", log.read_text())
    assert found
    cluster.address = found[1]
    cluster.add_worker()
    cluster.add_worker()
    yield cluster
    cluster.stop()


@pytest.fixture(scope="module")
def folder(tmp_path_factory: pytest.TempPathFactory) -> Path:
    return photographs.shoot(tmp_path_factory.mktemp("far") / "shoot", FRAMES, edge=photographs.WHOLE)


def test_the_same_to_the_last_bit_with_a_worker_killed_on_the_way(cluster: Cluster, folder: Path) -> None:
    here = analyse(folder, lambda _: None, maps=True)
    assert len(here["frames"]) == FRAMES and all(frame["focus"] for frame in here["frames"])
    there = Far(cluster.address)
    killed = False

    def kill_one(_: object) -> None:
        nonlocal killed
        if there.tally.frames >= 2 and not killed:
            killed = True
            cluster.kill(2)
            cluster.add_worker()  # another machine comes in its place

    assert analyse(folder, kill_one, maps=True, far=there) == here
    assert killed and there.tally.frames >= 4 and there.tally.sent == 0
    there.close()

    sending = Far(cluster.address, send=True)
    assert analyse(folder, lambda _: None, maps=True, far=sending) == here
    sizes = [path.stat().st_size for path in folder.rglob("*.JPG")]
    assert sending.tally.frames > 0
    assert min(sizes) * sending.tally.frames <= sending.tally.sent <= max(sizes) * sending.tally.frames
    sending.close()


def test_files_that_workers_do_not_see_are_sent(
    cluster: Cluster, folder: Path, monkeypatch: pytest.MonkeyPatch, tmp_path: Path
) -> None:
    """As where a path leads to another file on the worker's machine: this one goes by where a process stands."""
    (frame, *_) = sorted(folder.rglob("*.JPG"))
    monkeypatch.chdir(frame.parent)
    derive = DeriveTask(1, f"/proc/self/cwd/{frame.name}", "/proc/self/cwd", "v1", str(tmp_path / "here"))
    here = tasks.prepare(PrepareTask(derive, None))
    there = Far(cluster.address)
    task = PrepareTask(replace(derive, cache=str(tmp_path / "there")), None)
    assert there.worker().run(tasks.prepare, task).result(60) == here
    assert there.tally.sent == frame.stat().st_size
    pictures = [
        {path.relative_to(tmp_path / place): path.read_bytes() for path in (tmp_path / place).rglob("*.jpg")}
        for place in ("here", "there")
    ]
    assert pictures[0] == pictures[1] != {}
    there.close()


def test_without_a_cluster_that_can_be_used_it_says_so(
    cluster: Cluster, folder: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    code, told = winnow("analyse", folder, "--cluster", "tcp://127.0.0.1:1")
    assert code == 2 and "No scheduler answers" in told
    monkeypatch.setattr(far, "__version__", "0.0.1")
    with pytest.raises(ClusterError, match=r"has Winnow .*, here it is 0\.0\.1"):
        Far(cluster.address)


def test_a_worker_of_another_version_that_comes_later_is_not_used(
    cluster: Cluster, folder: Path, tmp_path: Path, caplog: pytest.LogCaptureFixture
) -> None:
    """It could find something else; and what the last of the others had at hand is not left to it."""
    there = Far(cluster.address)
    (tmp_path / "older.py").write_text("import winnow\nwinnow.__version__ = '0.0.1'\n")
    cluster.add_worker("--preload", str(tmp_path / "older.py"))
    until(lambda: "is not used: it has Winnow 0.0.1" in caplog.text)
    (frame, *_) = sorted(folder.rglob("*.JPG"))
    task = PrepareTask(DeriveTask(1, str(frame), str(folder), "v1", str(tmp_path / "there")), None)
    assert there.worker().run(tasks.prepare, task).result(60).problem is None
    asked = [there.worker().run(tasks.prepare, task) for _ in range(4)]
    for number in range(1, len(cluster.processes) - 1):
        if cluster.processes[number].poll() is None:
            cluster.kill(number)
    for outcome in asked:
        assert outcome.exception(60) is None or isinstance(outcome.exception(), FarLostError)
    until(lambda: there.free == 0)
    assert isinstance(there.worker().run(tasks.prepare, task).exception(60), FarLostError)
    there.close()
    cluster.kill(len(cluster.processes) - 1)
    cluster.add_worker()


def test_a_scheduler_that_dies_costs_time_and_nothing_else(cluster: Cluster, folder: Path) -> None:
    there = Far(cluster.address)

    def kill_it(_: object) -> None:
        if there.tally.frames >= 1 and cluster.processes[0].poll() is None:
            cluster.kill(0)

    found = analyse(folder, kill_it, far=there)
    assert cluster.processes[0].poll() is not None
    assert len(found["frames"]) == FRAMES and all(frame["focus"] for frame in found["frames"])
