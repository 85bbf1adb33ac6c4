"""The log: what happened, for whoever is to help. It goes round in a few files, written by all processes. Unless that
is set, it names no picture: then it can be shown to others.
"""

from __future__ import annotations

import logging
import os
import re
import sqlite3
import sys
import traceback
from pathlib import Path
from types import TracebackType

from winnow.store.database import display

FOLDER = "log"
"""In the data folder."""
FILE = "winnow.log"
MOST_BYTES, FILES = 1_000_000, 5
LINE = "%(asctime)s %(levelname)s %(process)d %(name)s: %(message)s"

PLACE, NAMED = "WINNOW_LOG", "WINNOW_LOG_NAMES"
"""Variables of the environment that tell worker processes where the log is, and whether pictures are named in it."""
PATH_LIKE = re.compile(r"(?:[A-Za-z]:)?[/\\][^\s'\"]+")

Failure = tuple[type[BaseException], BaseException, TracebackType | None] | tuple[None, None, None]


class Private:
    """A name, or a text that may hold some: part of a line only where names are wanted."""

    def __init__(self, text: str, instead: str) -> None:
        self.text, self.instead = text, instead

    def __str__(self) -> str:
        return self.text if os.environ.get(NAMED) else self.instead


def picture(path: str | Path) -> Private:
    """The path of a picture or folder, for the log."""
    return Private(display(path), "a file")


class Discreet(logging.Formatter):
    """Of what went wrong it tells where in the code and of which kind, not what was said: messages quote paths."""

    def format(self, record: logging.LogRecord) -> str:
        if not record.name.startswith("winnow") and not os.environ.get(NAMED):
            said = record.msg if record.args else record.getMessage()
            record = logging.makeLogRecord(
                {**record.__dict__, "msg": PATH_LIKE.sub("…", str(said)), "args": None, "exc_text": None}
            )
        return super().format(record)

    def formatException(self, ei: Failure) -> str:  # noqa: N802 - so called by the standard library
        if os.environ.get(NAMED) or ei[1] is None:
            return super().formatException(ei)
        told: list[str] = []
        error: BaseException | None = ei[1]
        while error is not None:
            told.append("".join(traceback.format_tb(error.__traceback__)) + _kind(error))
            error = error.__cause__ or (None if error.__suppress_context__ else error.__context__)
        return "\nwhich came of:\n".join(told)


def _kind(error: BaseException) -> str:
    """What kind of failure, with what is said by the system or by SQLite, which know no names of pictures."""
    name = type(error).__name__
    if isinstance(error, sqlite3.Error):
        return f"{name}: {error}"
    if isinstance(error, OSError) and error.errno:
        return f"{name}: {os.strerror(error.errno)}"
    return name


class _File(logging.Handler):
    """The file of the log, opened when something is written: most workers never do."""

    def __init__(self, path: Path) -> None:
        super().__init__()
        self._path = path
        self._file: logging.Handler | None = None

    def emit(self, record: logging.LogRecord) -> None:
        try:
            if self._file is None:
                from concurrent_log_handler import ConcurrentRotatingFileHandler

                self._file = ConcurrentRotatingFileHandler(
                    str(self._path), maxBytes=MOST_BYTES, backupCount=FILES, encoding="utf-8", chmod=0o600
                )
                self._file.setFormatter(Discreet(LINE))
            self._file.handle(record)
        except OSError:
            self.handleError(record)


def set_up(data: Path, *, names: bool) -> None:
    """From now on this process and the workers that it starts write into the log of a data folder; what is serious is
    told on the console too. names: pictures and folders are named. Raises OSError."""
    folder = data / FOLDER
    folder.mkdir(parents=True, exist_ok=True)
    os.environ[PLACE] = str(folder)
    os.environ[NAMED] = "1" if names else ""
    console = logging.StreamHandler(sys.stderr)
    console.setLevel(logging.WARNING)
    console.setFormatter(Discreet())
    logging.getLogger().addHandler(console)
    join()


def settled() -> dict[str, str]:
    """What the environment says of the log at the moment: for workers, whose own may be older."""
    return {name: os.environ[name] for name in (PLACE, NAMED) if name in os.environ}


def join() -> None:
    """Writes into the log that the environment names, if it does."""
    place = os.environ.get(PLACE)
    if not place:
        return
    logging.getLogger().addHandler(_File(Path(place) / FILE))
    logging.getLogger("winnow").setLevel(logging.INFO)
