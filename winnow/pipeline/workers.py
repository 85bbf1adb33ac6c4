"""Worker processes, each known by what it is doing, so that a crash names its frame."""

from __future__ import annotations

import multiprocessing
import os
import signal
import sys
from collections.abc import Callable, Iterator
from concurrent.futures import CancelledError, Future, ProcessPoolExecutor
from concurrent.futures.process import BrokenProcessPool
from contextlib import contextmanager
from typing import Any

from winnow.pipeline.tasks import start_worker, warm_up


class WorkerCrashedError(RuntimeError):
    """The process that ran a task ended before the task did."""


class Worker:
    """One process that runs one task at a time and is replaced when it dies, on a task or idle."""

    def __init__(self) -> None:
        self._executor: ProcessPoolExecutor | None = None
        self.run(warm_up)

    def run(self, function: Callable[..., Any], *arguments: Any) -> Future[Any]:
        """Starts a task. The future always ends, and raises WorkerCrashedError if the process dies on the task, or
        what kept the task from being started."""
        outcome: Future[Any] = Future()
        outcome.set_running_or_notify_cancel()  # whoever waits for it cannot take it from others who do
        try:
            inner = self._submit(function, *arguments)
        except Exception as error:  # noqa: BLE001 - it is told to whoever waits
            # No process to be had (too many, no memory): the next task tries for one again.
            self._executor = None
            outcome.set_exception(error)
            return outcome
        inner.add_done_callback(lambda done: self._pass_on(done, outcome))
        return outcome

    def _submit(self, function: Callable[..., Any], *arguments: Any) -> Future[Any]:
        for _ in range(2):
            if self._executor is None:
                self._executor = ProcessPoolExecutor(
                    max_workers=1,
                    mp_context=multiprocessing.get_context("spawn"),
                    initializer=start_worker,
                )
            try:
                with _no_interrupt():
                    return self._executor.submit(function, *arguments)
            except BrokenProcessPool:
                self._executor = None  # it died while it was idle
        raise WorkerCrashedError

    def _pass_on(self, done: Future[Any], outcome: Future[Any]) -> None:
        try:
            result = done.result()
        except (BrokenProcessPool, CancelledError):
            self._executor = None
            outcome.set_exception(WorkerCrashedError())
        except BaseException as error:  # noqa: BLE001 - it is told to whoever waits
            outcome.set_exception(error)
        else:
            outcome.set_result(result)

    def stop(self) -> None:
        """Takes no more tasks and ends when the one at hand does."""
        if self._executor is not None:
            self._executor.shutdown(wait=True, cancel_futures=True)

    def kill(self) -> None:
        """Ends the process whatever it is doing. At its end Python waits for every process pool: one that is stuck
        would keep the program from ending."""
        processes = getattr(self._executor, "_processes", None) or {}
        for process in list(processes.values()):
            process.kill()


@contextmanager
def _no_interrupt() -> Iterator[None]:
    """Processes started in here never see Ctrl+C, which reaches the whole process group: the parent
    ends its workers in order. They inherit the signal mask."""
    if sys.platform == "win32":
        yield
        return
    before = signal.pthread_sigmask(signal.SIG_BLOCK, {signal.SIGINT})
    try:
        yield
    finally:
        signal.pthread_sigmask(signal.SIG_SETMASK, before)


def worker_count() -> int:
    """One process a core that this process may use."""
    return max(1, len(os.sched_getaffinity(0)) if hasattr(os, "sched_getaffinity") else 2)
