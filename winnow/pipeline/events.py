"""News for whoever listens: the interface over server-sent events, tests, the command line."""

from __future__ import annotations

import threading
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from typing import Any

Event = dict[str, Any]
Listener = Callable[[Event], None]


class Events:
    """Hands every event to every listener, on the thread that publishes it.

    Events only say what to look at anew; they carry no state that would be lost with one.
    """

    def __init__(self) -> None:
        self._listeners: list[Listener] = []
        self._lock = threading.Lock()

    def publish(self, kind: str, **content: Any) -> None:
        with self._lock:
            listeners = list(self._listeners)
        for listener in listeners:
            listener({"kind": kind, **content})

    @contextmanager
    def listening(self, listener: Listener) -> Iterator[None]:
        with self._lock:
            self._listeners.append(listener)
        try:
            yield
        finally:
            with self._lock:
                self._listeners.remove(listener)
