"""The room that derived pictures take: counted, and kept within its limit, in a worker."""

from __future__ import annotations

import threading
from collections.abc import Callable
from concurrent.futures import Future

from winnow.pipeline import tasks
from winnow.pipeline.cache import Cache
from winnow.store.database import Database

GB = 10**9
COUNT_EVERY = 300
"""So many pictures are made before it is looked at again whether there is room for them."""
MAKING = (tasks.derive, tasks.prepare, tasks.develop_full)

RunApart = Callable[
    [Callable[[tasks.TidyTask], int], tasks.TidyTask, Callable[["Future[int]"], None]], object
]


class Room:
    """May be asked on any thread."""

    def __init__(self, database: Database, cache: Cache, run_apart: RunApart) -> None:
        self._database = database
        self._cache = cache
        self._run_apart = run_apart
        self._lock = threading.Lock()
        self._made = 0
        self._counting = False
        self._taken: int | None = None

    def note(self, function: Callable[..., object]) -> None:
        """A task ended; if it was one that makes pictures, there may be too many by now."""
        if function not in MAKING:
            return
        with self._lock:
            self._made += 1
            due = self._made >= COUNT_EVERY
        if due:
            self.tidy()

    def tidy(self) -> None:
        """Forgets what is too much, in the background."""
        with self._lock:
            self._made, self._counting = 0, True
        limit = self._database.settings.now().cache_gb * GB
        self._run_apart(tasks.tidy_cache, tasks.TidyTask(str(self._cache.folder), limit), self._note_counted)

    def _note_counted(self, done: Future[int]) -> None:
        with self._lock:
            self._counting = False
            if done.exception() is None:
                self._taken = done.result()

    def taken(self) -> int | None:
        """What the pictures take, bytes; None while that is being counted, because some were made since."""
        with self._lock:
            right = self._taken is not None and self._made == 0
            if self._counting or right:
                return None if self._counting else self._taken
        self.tidy()
        return None
