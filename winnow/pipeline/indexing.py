"""Writes down what frames are found by, when nothing changes just now."""

from __future__ import annotations

import logging
import threading
import time
from dataclasses import dataclass

from winnow.store import search
from winnow.store.database import Database, NoRoomError

log = logging.getLogger(__name__)

EVERY_S = 2.0
LONGEST_S = 20.0
"""A shoot that never rests, because it is being measured, is brought up so often all the same."""


@dataclass(frozen=True, slots=True)
class Waiting:
    """A shoot that is not brought up yet: its revision at the last look, and since when it waits (monotonic, s)."""

    revision: int
    since: float


class Indexer:
    """Looks now and then which shoots changed and rest by now, from `start` until `stop`."""

    def __init__(self, database: Database) -> None:
        self._database = database
        self._ended = threading.Event()
        self._thread = threading.Thread(target=self._run, name="indexing", daemon=True)

    def start(self) -> None:
        self._thread.start()

    def stop(self) -> None:
        self._ended.set()
        if self._thread.is_alive():
            self._thread.join(5)

    def _run(self) -> None:
        before: dict[int, Waiting] = {}
        while not self._ended.wait(EVERY_S):
            try:
                before = self.look(before)
            except NoRoomError:
                continue  # there may be room later
            except Exception:
                log.exception("indexing")

    def look(self, before: dict[int, Waiting]) -> dict[int, Waiting]:
        """Brings up the shoots that rest, or that have waited for long; those that wait on, by their ids."""
        connection = self._database.connection()
        waiting: dict[int, Waiting] = {}
        for shoot_id in search.stale(connection):
            revision = connection.execute("SELECT revision FROM shoot WHERE id = ?", (shoot_id,)).fetchone()[
                0
            ]
            last = before.get(shoot_id) or Waiting(-1, time.monotonic())
            rests = last.revision == revision or time.monotonic() - last.since > LONGEST_S
            if rests and not self._ended.is_set():
                self._bring_up(shoot_id)
            else:
                waiting[shoot_id] = Waiting(revision, last.since)
        return waiting

    def _bring_up(self, shoot_id: int) -> None:
        began = time.monotonic()
        written = search.bring_up(self._database, shoot_id)
        if written:
            took = time.monotonic() - began
            log.info("shoot %d: %d frames written down in %.1f s", shoot_id, written, took)
