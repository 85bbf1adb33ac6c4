"""Worker processes, each known by what it is doing, so that a crash names its frame."""

from __future__ import annotations

import multiprocessing
import os
import signal
import sys
import time
from collections.abc import Callable, Iterator
from concurrent.futures import CancelledError, Future, ProcessPoolExecutor
from concurrent.futures.process import BrokenProcessPool
from contextlib import contextmanager, suppress
from functools import cache
from multiprocessing.context import BaseContext
from typing import Any

import psutil

from winnow.pipeline import logs
from winnow.pipeline.tasks import start_worker, warm_up


class WorkerCrashedError(RuntimeError):
    """The process that ran a task ended before the task did."""

    def __str__(self) -> str:
        return "The worker process ended before it was done: try again."


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
        self._start(outcome, function, arguments)
        return outcome

    def _start(self, outcome: Future[Any], function: Callable[..., Any], arguments: tuple[Any, ...]) -> None:
        try:
            inner = self._submit(function, *arguments)
        except Exception as error:  # noqa: BLE001 - it is told to whoever waits
            # No process to be had (too many, no memory): the next task tries for one again.
            self._executor = None
            outcome.set_exception(error)
            return
        executor = self._executor

        def ended(done: Future[Any]) -> None:
            broken = not done.cancelled() and isinstance(done.exception(), BrokenProcessPool)
            if broken and _was_orphaned(executor):
                self._executor = None
                self._start(outcome, function, arguments)
            else:
                self._pass_on(done, outcome)

        inner.add_done_callback(ended)

    def _submit(self, function: Callable[..., Any], *arguments: Any) -> Future[Any]:
        for attempt in range(ATTEMPTS):
            if self._executor is None:
                self._executor = ProcessPoolExecutor(
                    max_workers=1,
                    mp_context=_ways(),
                    initializer=start_worker,
                    initargs=(logs.settled(),),
                )
            try:
                with no_interrupt():
                    return self._executor.submit(function, *arguments)
            except BrokenProcessPool:
                self._executor = None  # it died while it was idle
            except (ConnectionError, EOFError):
                # So did the one that it is to be a fork of, which takes a moment to be noticed.
                self._executor = None
                time.sleep(attempt * NOTICED_S)
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


UNKNOWN_END = 255
"""How a process ended, to Python (CPython, multiprocessing/popen_forkserver.py), if the one that it is a fork of
ended first, and nobody knows."""
ATTEMPTS, NOTICED_S = 5, 0.05


def _was_orphaned(executor: ProcessPoolExecutor | None) -> bool:
    """Whether a pool broke because the process that its own is a fork of ended: nothing is wrong with the task."""
    processes = list((getattr(executor, "_processes", None) or {}).values())
    orphans = [process for process in processes if process.exitcode == UNKNOWN_END]
    for process in orphans:
        # Not `process.kill()`: with its end unknown it counts as ended, and may be running.
        with suppress(psutil.Error):
            psutil.Process(process.pid).kill()
    return bool(orphans)


@cache
def _ways() -> BaseContext:
    """How processes start. Where the system does that safely, they are forks of one that has loaded what they
    need: loading takes a core most of a second, for each worker and each that replaces one."""
    if sys.platform != "linux":
        return multiprocessing.get_context("spawn")
    context = multiprocessing.get_context("forkserver")
    context.set_forkserver_preload(["winnow.pipeline.loaded"])
    return context


@contextmanager
def no_interrupt() -> Iterator[None]:
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
