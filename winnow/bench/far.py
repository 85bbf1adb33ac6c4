"""Measuring on a cluster, by workers: `python -m winnow.bench.far FOLDER`. All on this machine: what it tells is what
the way costs, not what more machines bring.

Baseline: the same function in one process without any scheduler, in the same run.
"""

from __future__ import annotations

import subprocess
import sys
import tempfile
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Annotated

import psutil
import typer

from winnow.bench.frames import make_large_shoot
from winnow.pipeline import tasks
from winnow.pipeline.far import Far
from winnow.pipeline.tasks import DeriveTask, PrepareTask

PORT = 18787


@contextmanager
def cluster(workers: int, folder: Path) -> Iterator[str]:
    """A scheduler with so many workers, each of one thread."""
    dask, address = str(Path(sys.executable).with_name("dask")), f"tcp://127.0.0.1:{PORT}"
    quiet = {"stdout": subprocess.DEVNULL, "stderr": subprocess.DEVNULL}
    commands = [[dask, "scheduler", "--port", str(PORT), "--no-dashboard"]]
    commands += [[dask, "worker", address, "--nthreads", "1", "--no-dashboard"]] * workers
    started = [subprocess.Popen(command, cwd=folder, **quiet) for command in commands]  # type: ignore[call-overload]
    try:
        time.sleep(8)
        yield address
    finally:
        for process in started:
            for one in [*psutil.Process(process.pid).children(recursive=True), psutil.Process(process.pid)]:
                one.kill()
            process.wait()


def main(
    folder: Annotated[Path, typer.Argument(help="Empty folder to work in.")],
    frames: Annotated[int, typer.Option(help="Frames of 24 megapixels.")] = 48,
) -> None:
    """Prints frames a second, efficiency and bytes moved, by path and sent as bytes."""
    make_large_shoot(folder / "shoot", frames, distinct=12)
    files = sorted((folder / "shoot").rglob("*.[jJ][pP][gG]"))

    def task(path: Path, cache: str) -> PrepareTask:
        return PrepareTask(DeriveTask(1, str(path), str(path.parent), path.stem, cache), None)

    tasks.use_one_thread()
    with tempfile.TemporaryDirectory() as cache:
        tasks.prepare(task(files[0], cache + "/first"))
        began = time.monotonic()
        for path in files[: frames // 4]:
            tasks.prepare(task(path, cache))
        alone = (frames // 4) / (time.monotonic() - began)
    typer.echo(f"one process, no scheduler: {alone:.2f} frames a second")
    for workers in (1, 2, 4):
        for send in (False, True):
            with cluster(workers, folder) as address, tempfile.TemporaryDirectory() as cache:
                far = Far(address, send=send)
                _all(far, [task(path, cache + "/first") for path in files[: 2 * workers]])
                before = (far.tally.sent, far.tally.received)
                began = time.monotonic()
                _all(far, [task(path, cache) for path in files])
                rate = frames / (time.monotonic() - began)
                sent, received = far.tally.sent - before[0], far.tally.received - before[1]
                far.close()
            typer.echo(
                f"{workers} workers, {'sent' if send else 'by path'}: {rate:.2f} frames a second, "
                f"{rate / alone / workers:.0%} of {workers} processes, "
                f"{sent / frames / 1e6:.2f} MB a frame out, {received / frames / 1e6:.2f} MB back"
            )


def _all(far: Far, wanted: list[PrepareTask]) -> None:
    """As the engine does: no more at once than the cluster keeps up with."""
    running = []
    for one in wanted:
        while far.free <= 0:
            time.sleep(0.005)
        running.append(far.worker().run(tasks.prepare, one))
    for outcome in running:
        outcome.result()


if __name__ == "__main__":
    typer.run(main)
