"""The same moment for several requests: threads that wait for each other before they start."""

from __future__ import annotations

import threading
from collections.abc import Callable, Sequence
from concurrent.futures import ThreadPoolExecutor
from typing import TypeVar

T = TypeVar("T")


def at_once(acts: Sequence[Callable[[], T]]) -> list[T]:
    """Run all acts in threads of their own, released together; their results in the same order."""
    barrier = threading.Barrier(len(acts))

    def run(act: Callable[[], T]) -> T:
        barrier.wait()
        return act()

    with ThreadPoolExecutor(len(acts)) as threads:
        return list(threads.map(run, acts))
