"""Files opened safely: what lies in a folder may have been changed since it was listed, by anybody.

Nothing is opened that can block (pipes, devices, sockets), and no link is followed that was planted meanwhile:
the real path is worked out, held against the folder it must lie in, and walked from there one name at a time
without following links (O_NOFOLLOW, POSIX.1-2008, open).
"""

from __future__ import annotations

import errno
import os
import stat
import sys
from io import BufferedRandom, BufferedReader, BufferedWriter
from pathlib import Path

if (
    sys.platform == "win32"
):  # names there are no pipes or devices of a folder, and handles of folders cannot be opened
    _OWN = _LINKED = os.O_BINARY | os.O_NOINHERIT
    _FOLDER = 0
else:
    _OWN = os.O_CLOEXEC | os.O_NOFOLLOW
    _LINKED = os.O_CLOEXEC | os.O_NONBLOCK
    _FOLDER = os.O_RDONLY | _OWN | os.O_DIRECTORY
_PLAIN = os.O_RDONLY | _OWN | _LINKED
"""_OWN: never through a link; _LINKED: without waiting for whatever is at the other end."""

NOT_A_FILE = "It is not a file but a pipe, a socket, a device or a folder."
LEADS_OUT = "It is a link that leads out of the folder of the shoot."


class NotPlainError(OSError):
    """What lies under a name is not to be read; `strerror` says why to a person."""

    def __init__(self, reason: str, path: str | Path) -> None:
        super().__init__(errno.EPERM, reason, os.fspath(path))


def open_plain(path: str | Path, below: str | None = None) -> BufferedReader:
    """Opens a regular file for reading. Raises NotPlainError, or OSError.

    below: folder that the real path must lie in; None takes the file's own folder, so that the last name at least
    is no link.
    """
    if below is None:
        return _open_here(path)
    real = os.path.realpath(path)
    base = os.path.realpath(below)
    names = os.path.relpath(real, base).split(os.sep)
    if names[0] in (os.pardir, os.curdir):
        raise NotPlainError(LEADS_OUT, path)
    sys.audit("open", real, "r", _PLAIN)  # what is opened below is told by bare names
    if sys.platform == "win32":
        return _regular(os.open(real, _PLAIN), path)
    handle = os.open(base, _FOLDER)
    for name in names[:-1]:
        handle = _step(handle, name, _FOLDER, path)
    return _regular(_step(handle, names[-1], _PLAIN, path), path)


def _open_here(path: str | Path) -> BufferedReader:
    """Opens a file whose folder is trusted: links lead to the folder as they may, the file itself is none."""
    try:
        return _regular(os.open(path, _PLAIN), path)
    except OSError as error:
        if error.errno == errno.ELOOP:
            raise NotPlainError(LEADS_OUT, path) from error
        if error.errno in (errno.ENXIO, errno.EOPNOTSUPP):  # a socket
            raise NotPlainError(NOT_A_FILE, path) from error
        raise


def _step(folder: int, name: str, flags: int, path: str | Path) -> int:
    """Opens a name within an open folder, and closes that."""
    try:
        return os.open(name, flags, dir_fd=folder)
    except OSError as error:
        if error.errno in (errno.ELOOP, errno.ENOTDIR):
            raise NotPlainError(LEADS_OUT, path) from error
        if error.errno in (errno.ENXIO, errno.EOPNOTSUPP):  # a socket
            raise NotPlainError(NOT_A_FILE, path) from error
        raise
    finally:
        os.close(folder)


def open_regular(path: str | Path) -> BufferedReader:
    """Opens a regular file for comparing it, wherever its links lead. Raises NotPlainError, or OSError."""
    handle = os.open(path, os.O_RDONLY | _LINKED)
    return _regular(handle, path)


def create_plain(path: str | Path) -> BufferedWriter:
    """A new, empty file for writing in the place of whatever lies under the name: never through a link."""
    Path(path).unlink(missing_ok=True)
    return open(os.open(path, os.O_WRONLY | os.O_CREAT | os.O_EXCL | _OWN, 0o666), "wb")


def rewrite_plain(path: str | Path) -> BufferedRandom:
    """A regular file for writing in its own room: never through a link. Raises NotPlainError, or OSError."""
    handle = os.open(path, os.O_RDWR | _OWN | _LINKED)
    return open(_checked(handle, path), "r+b")


def _regular(handle: int, path: str | Path) -> BufferedReader:
    return open(_checked(handle, path), "rb")


def _checked(handle: int, path: str | Path) -> int:
    """The handle, if it is one of a regular file; else it is closed."""
    try:
        if not stat.S_ISREG(os.fstat(handle).st_mode):
            raise NotPlainError(NOT_A_FILE, path)
        if sys.platform != "win32":
            os.set_blocking(handle, True)
    except BaseException:
        os.close(handle)
        raise
    return handle


def read_plain(path: str | Path, below: str | None = None, limit: int | None = None) -> bytes:
    """All bytes of a regular file, at most one more than `limit`. Raises as `open_plain`."""
    with open_plain(path, below) as file:
        return file.read() if limit is None else file.read(limit + 1)
