"""Measuring on other machines: a scheduler of `dask.distributed` that exists already, and its workers.

Measuring is a pure function of a file, so where it is done changes nothing in what is found. A worker reads the file
by its path where it sees the same file there (size and time agree), else it is sent the bytes. What it made comes
back as bytes: nothing is written where the files are. Workers come and go; what one had at hand is done by another.
"""

from __future__ import annotations

import logging
import os
import tempfile
import threading
from collections.abc import Callable
from concurrent.futures import CancelledError, Future, ThreadPoolExecutor
from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import Any

from winnow import __version__
from winnow.pipeline import tasks
from winnow.pipeline.cache import Cache, Kind
from winnow.pipeline.tasks import DeriveResult, PrepareTask
from winnow.pipeline.workers import WorkerCrashedError

log = logging.getLogger(__name__)

GIVERS = 4
"""Files that are sent at once."""
AHEAD = 2
"""Tasks for each worker: one that it works on, one that is on its way. So much memory it takes, however many wait."""
LOOK_EVERY_S = 1.0
CONNECT_S = 10.0
SAME_TIME_S = 2.5
"""File systems keep times to 2 s (FAT) or better; shares round them."""


class ClusterError(RuntimeError):
    """The cluster cannot be used; the message says what to do."""


class FarLostError(OSError):
    """The scheduler is not there any more: what was asked of it is done again here."""

    def __str__(self) -> str:
        return "The cluster is not reached any more. It goes on here."


class NotTheFileError(Exception):
    """Under that path a worker does not see the file that is meant."""


@dataclass(frozen=True, slots=True)
class Made:
    """What a far worker found, and the pictures that it made."""

    result: DeriveResult
    pictures: dict[Kind, bytes]


@dataclass(slots=True)
class Tally:
    """What went over the wire: frames, and bytes of files and of pictures."""

    frames: int = 0
    sent: int = 0
    received: int = 0
    lock: threading.Lock = field(default_factory=threading.Lock)

    def add(self, sent: int, received: int) -> None:
        with self.lock:
            self.frames += 1
            self.sent += sent
            self.received += received


Done = Callable[[Made | None, BaseException | None], None]

_one_at_a_time = threading.Lock()
_ready = threading.Event()


def measure_there(task: PrepareTask, size: int, mtime: float, content: bytes | None) -> Made:
    """Runs on a worker: everything on one frame. content: the file, where it is not read by its path. Raises
    NotTheFileError."""
    with _one_at_a_time, tempfile.TemporaryDirectory(prefix="winnow-") as folder:
        if not _ready.is_set():
            tasks.use_one_thread()
            _ready.set()
        derive = replace(task.derive, cache=str(Path(folder) / "cache"))
        if content is not None:
            copy = Path(folder) / "file" / os.path.basename(derive.path)
            copy.parent.mkdir()
            copy.write_bytes(content)
            derive = replace(derive, path=str(copy), below=str(copy.parent))
        elif not _is_there(derive.path, size, mtime):
            raise NotTheFileError
        result = tasks.prepare(replace(task, derive=derive))
        cache = Cache(Path(derive.cache))
        made = {kind: cache.read(kind, derive.version) for kind in Kind}
        return Made(result, {kind: jpeg for kind, jpeg in made.items() if jpeg is not None})


def _is_there(path: str, size: int, mtime: float) -> bool:
    try:
        stat = os.stat(path)
    except OSError:
        return False
    return stat.st_size == size and abs(stat.st_mtime - mtime) <= SAME_TIME_S


def version_there() -> str:
    """Runs on a worker: the version of Winnow there."""
    return __version__


class Far:
    """The cluster, as the engine sees it. Raises ClusterError where it cannot be used."""

    def __init__(self, address: str, *, send: bool = False) -> None:
        """send: files are sent as bytes from the first one on, not only where workers do not see them."""
        try:
            import distributed
        except ModuleNotFoundError as error:
            raise ClusterError("A cluster needs dask.distributed: install winnow[cluster].") from error
        try:
            client: Any = distributed.Client
            self._client = client(address, timeout=CONNECT_S, set_as_default=False)
            versions = self._client.run(version_there)
        except (OSError, ValueError) as error:
            raise ClusterError(f"No scheduler answers at {address} ({error}): start it first.") from error
        except ModuleNotFoundError as error:
            raise ClusterError(f"The workers at {address} have no Winnow: install it there too.") from error
        for worker, version in versions.items():
            if version != __version__:
                self._client.close()
                raise ClusterError(
                    f"The worker at {worker} has Winnow {version}, here it is {__version__}: install the same."
                )
        self.tally = Tally()
        self._send = send
        self._fit = frozenset(versions)
        self._unfit: set[str] = set()
        self._asked: dict[Any, frozenset[str]] = {}
        self._running = 0
        self._lock = threading.Lock()
        self._ended = threading.Event()
        self._givers = ThreadPoolExecutor(GIVERS, thread_name_prefix="cluster")
        threading.Thread(target=self._look, name="cluster", daemon=True).start()

    @property
    def free(self) -> int:
        """So many tasks may be given to it now."""
        with self._lock:
            return AHEAD * len(self._fit) - self._running

    def worker(self) -> FarWorker:
        """Somebody to run one task."""
        return FarWorker(self)

    def close(self) -> None:
        self._ended.set()
        self._givers.shutdown(wait=False, cancel_futures=True)
        self._client.close(timeout=2)

    def _look(self) -> None:
        """Workers come and go. What was given to workers that are all gone is asked back: others that came may not
        take it."""
        while not self._ended.wait(LOOK_EVERY_S):
            try:
                if self._client.status != "running":
                    self._set_fit(frozenset())  # what it has at hand ends by itself, or goes on
                    continue
                there = frozenset(self._client.nthreads())
                self._set_fit(self._fit & there | self._fit_of(there - self._fit - self._unfit))
                with self._lock:
                    stranded = [one for one, those in self._asked.items() if not those & self._fit]
                if stranded:
                    self._client.cancel(stranded)
            except Exception as error:  # noqa: BLE001 - of the network, of a scheduler that ends
                log.info("the cluster does not answer: %s", type(error).__name__)
                self._set_fit(frozenset())

    def _set_fit(self, fit: frozenset[str]) -> None:
        with self._lock:
            if len(fit) != len(self._fit):
                log.info("the cluster has %d workers", len(fit))
            self._fit = frozenset() if self._ended.is_set() else fit

    def _fit_of(self, new: frozenset[str]) -> frozenset[str]:
        """Those of some workers that find the same as would be found here. One that cannot be asked just now is asked
        again."""
        if not new:
            return new
        answers = self._client.run(version_there, workers=list(new), on_error="return")
        for worker, answer in answers.items():
            if answer != __version__ and not isinstance(answer, OSError):
                has = f"has Winnow {answer}" if isinstance(answer, str) else "has no Winnow"
                log.warning("the worker at %s is not used: it %s, here it is %s", worker, has, __version__)
                self._unfit.add(worker)
        return frozenset(worker for worker, answer in answers.items() if answer == __version__)

    def run(self, task: PrepareTask, done: Done) -> None:
        """Gives a task to the cluster; done: called once with what came of it, on another thread."""
        with self._lock:
            self._running += 1

        def ended(made: Made | None, error: BaseException | None) -> None:
            with self._lock:
                self._running -= 1
            done(made, error)

        self._givers.submit(self._give, task, ended, self._send)

    def _give(self, task: PrepareTask, ended: Done, send: bool) -> None:
        with self._lock:
            fit = self._fit
        if not fit:
            ended(None, FarLostError())
            return
        try:
            stat = os.stat(task.derive.path)
            content = self._client.scatter(Path(task.derive.path).read_bytes(), hash=False) if send else None
            asked = self._client.submit(
                *(measure_there, task, stat.st_size, stat.st_mtime, content),
                workers=list(fit), pure=False, retries=1,
            )  # fmt: skip
        except Exception as error:  # noqa: BLE001 - it is told to whoever waits
            ended(None, self._meant(error))
            return

        def take(future: Any) -> None:
            with self._lock:
                self._asked.pop(future, None)
            try:
                made = future.result()
            except NotTheFileError as error:
                if send:
                    ended(None, error)
                    return
                if not self._send:
                    log.info("workers do not see the files by their paths: they are sent")
                self._send = True
                self._givers.submit(self._give, task, ended, True)
            except BaseException as error:  # noqa: BLE001 - it is told to whoever waits
                ended(None, self._meant(error))
            else:
                self.tally.add(stat.st_size if send else 0, sum(map(len, made.pictures.values())))
                ended(made, None)

        with self._lock:
            self._asked[asked] = fit
        asked.add_done_callback(take)

    def _meant(self, error: BaseException) -> BaseException:
        """What a failure means to the engine. What nobody thought of would come again at every frame: from then on
        all is done here."""
        import distributed

        if isinstance(error, distributed.KilledWorker):
            return WorkerCrashedError()
        if isinstance(error, OSError) and error.errno:
            return error
        if not isinstance(error, (OSError, CancelledError, TimeoutError)):
            log.error("the cluster is not used any more", exc_info=error)
            self._ended.set()
            with self._lock:
                self._fit = frozenset()
        return FarLostError()


class FarWorker:
    """Runs one `tasks.prepare` far away, as a worker process does here."""

    def __init__(self, far: Far) -> None:
        self._far = far

    def run(self, function: Callable[..., Any], task: PrepareTask) -> Future[DeriveResult]:
        """Starts the task; the future always ends, with what a worker process would give."""
        assert function is tasks.prepare
        outcome: Future[DeriveResult] = Future()
        outcome.set_running_or_notify_cancel()
        cache = Cache(Path(task.derive.cache))

        def done(made: Made | None, error: BaseException | None) -> None:
            if made is None:
                outcome.set_exception(error or FarLostError())
                return
            try:
                for kind, jpeg in made.pictures.items():
                    if not cache.has(kind, task.derive.version):
                        cache.write(kind, task.derive.version, jpeg)
            except OSError as full:
                outcome.set_exception(full)
            else:
                outcome.set_result(made.result)

        self._far.run(task, done)
        return outcome

    def stop(self) -> None:
        """Nobody waits for it any more: what comes back goes nowhere."""

    kill = stop
