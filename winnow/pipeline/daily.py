"""Once a day a backup is made by itself, in a worker."""

from __future__ import annotations

import logging
import sqlite3
import threading
from datetime import UTC, datetime

from winnow.pipeline.engine import Engine
from winnow.pipeline.logs import Private
from winnow.store import backups, plans

log = logging.getLogger(__name__)

FIRST_S = 120.0
"""After the start: by then what was opened is on the screen."""
EVERY_S = 1800.0


class DailyBackup:
    """Looks now and then whether one is due, from `start` until `stop`."""

    def __init__(self, engine: Engine) -> None:
        self._engine = engine
        self._ended = threading.Event()
        self._thread = threading.Thread(target=self._run, name="backups", daemon=True)

    def start(self) -> None:
        self._thread.start()

    def stop(self) -> None:
        self._ended.set()

    def _run(self) -> None:
        wait = FIRST_S
        while not self._ended.wait(wait):
            wait = EVERY_S
            self.look()

    def look(self) -> None:
        """Delete plans that nobody needs, and make a backup if one is due. An error is logged, and the backup is
        tried again later."""
        database = self._engine.database
        try:
            plans.delete_leftovers(database, datetime.now(UTC).isoformat(timespec="milliseconds"))
        except (OSError, sqlite3.Error) as error:
            log.warning("plans not deleted: %s", Private(str(error), type(error).__name__))
        kept = database.settings.now().backups_kept
        try:
            made = self._engine.run_apart(
                backups.daily, backups.Due(database.path.parent, kept, datetime.now(UTC))
            ).result()
        except Exception as error:  # noqa: BLE001 - of the disk, of the worker, of a program that ends
            log.warning("no backup: %s", Private(str(error), type(error).__name__))
        else:
            if made is not None:
                log.info("backup of %d frames, %d bytes", made.frames, made.size)
