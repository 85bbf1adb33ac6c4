"""Questions to disks that may not answer: a share whose server is gone blocks `stat` and `open` for minutes.

Each place (the folder of a shoot) has a few threads of its own at most, and each question a time limit. A silent
place costs whoever asks first that long, the next ones nothing, and nobody else anything.
"""

from __future__ import annotations

import asyncio
import threading
import time
from collections import deque
from collections.abc import Callable
from concurrent.futures import Future
from dataclasses import dataclass, field
from typing import Any, TypeVar

T = TypeVar("T")

AT_ONCE = 8
"""Questions to one place that are asked beside each other; others wait in line, each no longer than its limit."""
LIMIT_S = 2.0


class DiskSilentError(OSError):
    """A disk did not answer in time; the message is meant for a person."""

    def __init__(self) -> None:
        super().__init__("The disk does not answer: check its connection, then try again.")


@dataclass(slots=True)
class _Place:
    """running: since when (monotonic, s) each question is asked."""

    threads: int = 0
    running: dict[Future[Any], float] = field(default_factory=dict)
    waiting: deque[tuple[Future[Any], Callable[[], Any]]] = field(default_factory=deque)


class Disks:
    """May be used on any thread. Its threads never keep the program from ending."""

    def __init__(self) -> None:
        self._places: dict[str, _Place] = {}
        self._lock = threading.Lock()

    def ask(self, place: str, question: Callable[[], T], limit_s: float = LIMIT_S) -> T:
        """Return the answer to a question about a place. Raises DiskSilentError, and what the question raises."""
        asked = self._start(place, question)
        try:
            return asked.result(limit_s)
        except TimeoutError:
            asked.cancel()
            raise DiskSilentError from None

    async def answer(self, place: str, question: Callable[[], T], limit_s: float = LIMIT_S) -> T:
        """The same on the event loop, which waits for it without a thread."""
        try:
            return await asyncio.wait_for(asyncio.wrap_future(self._start(place, question)), limit_s)
        except TimeoutError:
            raise DiskSilentError from None

    def _start(self, place: str, question: Callable[[], T]) -> Future[T]:
        asked: Future[T] = Future()
        with self._lock:
            line = self._places.setdefault(place, _Place())
            if line.running and time.monotonic() - min(line.running.values()) > LIMIT_S:
                raise DiskSilentError
            line.waiting.append((asked, question))
            if line.threads < AT_ONCE:
                line.threads += 1
                threading.Thread(target=self._work, args=(place, line), name="disk", daemon=True).start()
        return asked

    def _work(self, place: str, line: _Place) -> None:
        while True:
            with self._lock:
                if not line.waiting:
                    line.threads -= 1
                    if not line.threads:
                        self._places.pop(place, None)
                    return
                asked, question = line.waiting.popleft()
                line.running[asked] = time.monotonic()
            if asked.set_running_or_notify_cancel():  # else whoever asked has given up
                try:
                    asked.set_result(question())
                except BaseException as error:  # noqa: BLE001 - it is raised to whoever asked
                    asked.set_exception(error)
            with self._lock:
                del line.running[asked]
