"""The folder in which Winnow keeps its own: where it is, who uses it, and where that one can be reached."""

from __future__ import annotations

import json
import os
import secrets
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from dataclasses import asdict, dataclass
from pathlib import Path

from filelock import FileLock, Timeout
from platformdirs import user_data_path

LOCK = "winnow.lock"
RUNNING = "running.json"
LOOKED_S = 0.5
"""Whoever only looks whether the folder is held holds it for a moment."""
SECRET = "secret"
"""Name of the file; only its owner may read it."""


class DataFolderError(RuntimeError):
    """The data folder cannot be used; the message says what to do."""


class InUseError(DataFolderError):
    """Another process uses the data folder."""


@dataclass(frozen=True, slots=True)
class Running:
    """A server that runs on the data folder. secret: the one of the data folder lets in."""

    address: str
    process: int
    secret: bool


def default_folder() -> Path:
    """Where the system wants programs to keep what is a person's own: ~/.local/share/winnow or below XDG_DATA_HOME on
    Linux, ~/Library/Application Support/winnow, %LOCALAPPDATA%\\winnow."""
    return user_data_path("winnow", appauthor=False).resolve()


@contextmanager
def alone(data: Path) -> Iterator[None]:
    """Holds the data folder: two processes would both go on with the same unfinished plan. Raises DataFolderError,
    and InUseError where somebody else holds it."""
    try:
        data.mkdir(mode=0o700, parents=True, exist_ok=True)
        lock = FileLock(data / LOCK, timeout=LOOKED_S)
        lock.acquire()
    except Timeout as error:
        there = running(data)
        where = f"use its address ({there.address})" if there else "use its address"
        raise InUseError(
            f"Winnow is running on {data} already: {where}, end it, "
            "or choose another data folder with --data."
        ) from error
    except OSError as error:
        raise DataFolderError(
            f"The data folder {data} cannot be used ({error.strerror}): choose another with --data."
        ) from error
    try:
        yield
    finally:
        lock.release()


@contextmanager
def announced(data: Path, address: str, *, secret: bool) -> Iterator[None]:
    """Tells whoever looks into the folder where its server is."""
    note = data / RUNNING
    part = note.with_suffix(".part")
    with suppress(OSError):  # without the note a second start says less, no more
        part.write_text(json.dumps(asdict(Running(address, os.getpid(), secret))), "utf-8")
        part.replace(note)
    try:
        yield
    finally:
        note.unlink(missing_ok=True)


def running(data: Path) -> Running | None:
    """The server that runs on a data folder; None where none does, or it cannot be told where. What one that was
    killed left behind does not count."""
    if not (data / RUNNING).is_file() or not is_held(data):
        return None
    try:
        return Running(**json.loads((data / RUNNING).read_text("utf-8")))
    except (OSError, ValueError, TypeError):
        return None


def is_held(data: Path) -> bool:
    """Whether some process uses the data folder."""
    if not (data / LOCK).is_file():
        return False
    try:
        with FileLock(data / LOCK, blocking=False):
            return False
    except Timeout:
        return True
    except OSError:
        return False  # a folder that nobody may write to is held by nobody


def secret_of(data: Path) -> str:
    """The secret of a data folder, made at its first use: whoever can read the folder may use the server. Raises
    OSError."""
    path = data / SECRET
    try:
        handle = os.open(path, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600)
    except FileExistsError:
        known = path.read_text().strip()
        if known:
            return known
        path.unlink()
        return secret_of(data)
    with open(handle, "w") as file:
        file.write(secrets.token_urlsafe(32))
    return path.read_text()
