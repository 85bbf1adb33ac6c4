"""File operations that never overwrite and never lose: the only code that touches originals.

A target is first written under a part name in its own folder, checked, and then takes its final name
in one step that fails if the name is taken.
"""

from __future__ import annotations

import errno
import hashlib
import os
from pathlib import Path

BLOCK = 4 * 1024 * 1024


class VerificationError(OSError):
    """What was read back from the disk is not what was written."""


class TargetTakenError(OSError):
    """A file of that name is there and is not ours."""


def digest_of(path: str, *, from_disk: bool = False) -> str:
    """SHA-256 of a file. `from_disk` asks the system to drop its own copy and read the medium."""
    with open(path, "rb") as file:
        if from_disk and hasattr(os, "posix_fadvise"):
            os.posix_fadvise(file.fileno(), 0, 0, os.POSIX_FADV_DONTNEED)
        return hashlib.file_digest(file, "sha256").hexdigest()


def copy(source: str, target: str, part: str) -> str:
    """Copies a file, verified by reading it back; returns its SHA-256.

    part: name for the unfinished file, in the target's folder. Time stamps are kept. Raises
    TargetTakenError, VerificationError or OSError; the source is never changed and no unfinished
    file keeps the target's name.
    """
    if os.path.lexists(target):
        raise TargetTakenError(errno.EEXIST, "the name is taken", target)
    try:
        digest = _write_part(source, part)
        take_name(part, target)
    except BaseException:
        _remove(part)
        raise
    return digest


def _write_part(source: str, part: str) -> str:
    Path(part).parent.mkdir(parents=True, exist_ok=True)
    digest = hashlib.sha256()
    with open(source, "rb") as reader, open(part, "wb") as writer:
        while block := reader.read(BLOCK):
            digest.update(block)
            writer.write(block)
        writer.flush()
        os.fsync(writer.fileno())
        stat = os.fstat(reader.fileno())
    os.utime(part, ns=(stat.st_atime_ns, stat.st_mtime_ns))
    if digest_of(part, from_disk=True) != digest.hexdigest():
        raise VerificationError(errno.EIO, "the copy reads back differently", part)
    return digest.hexdigest()


def write(content: bytes, target: str, part: str, *, replacing: bool) -> str:
    """Puts `content` at `target` in one step; returns its SHA-256. Without `replacing`, raises
    TargetTakenError where a file is there."""
    if not replacing and os.path.lexists(target):
        raise TargetTakenError(errno.EEXIST, "the name is taken", target)
    try:
        Path(part).parent.mkdir(parents=True, exist_ok=True)
        with open(part, "wb") as writer:
            writer.write(content)
            writer.flush()
            os.fsync(writer.fileno())
        if replacing:
            os.replace(part, target)
            _sync_folder(target)
        else:
            take_name(part, target)
    except BaseException:
        _remove(part)
        raise
    return hashlib.sha256(content).hexdigest()


def move(source: str, target: str, part: str) -> None:
    """Moves a file without overwriting. Across disks it is copied and verified, and the original
    goes only if it has not changed meanwhile. Raises TargetTakenError, VerificationError, OSError.
    """
    if os.path.lexists(target):
        raise TargetTakenError(errno.EEXIST, "the name is taken", target)
    Path(target).parent.mkdir(parents=True, exist_ok=True)
    if same_disk(source, str(Path(target).parent)):
        take_name(source, target)
        _sync_folder(source)
        return
    before = os.stat(source)
    copy(source, target, part)
    after = os.stat(source)
    if (before.st_size, before.st_mtime_ns) != (after.st_size, after.st_mtime_ns):
        _remove(target)
        raise VerificationError(errno.EBUSY, "it changed while it was copied", source)
    os.unlink(source)
    _sync_folder(source)


def take_name(path: str, name: str) -> None:
    """Renames within a disk, failing with TargetTakenError where the name is taken.

    A hard link is the portable way to claim a name in one step. Disks without hard links (cards)
    get an empty file that reserves the name and is then replaced.
    """
    try:
        os.link(path, name, follow_symlinks=False)
    except FileExistsError as error:
        raise TargetTakenError(errno.EEXIST, "the name is taken", name) from error
    except OSError as error:
        if error.errno not in (errno.EPERM, errno.ENOTSUP, errno.EMLINK, errno.ENOSYS):
            raise
        try:
            os.close(os.open(name, os.O_CREAT | os.O_EXCL | os.O_WRONLY))
        except FileExistsError as taken:
            raise TargetTakenError(errno.EEXIST, "the name is taken", name) from taken
        os.replace(path, name)
    else:
        os.unlink(path)
    _sync_folder(name)


def same_disk(first: str, second: str) -> bool:
    return os.stat(first).st_dev == os.stat(second).st_dev


def is_reservation(path: str) -> bool:
    """An empty file, as `take_name` leaves when it is cut off on a disk without hard links."""
    return os.path.isfile(path) and os.path.getsize(path) == 0


def _remove(path: str) -> None:
    Path(path).unlink(missing_ok=True)


def _sync_folder(path: str) -> None:
    """Makes a change of names durable; some file systems cannot, and say so."""
    try:
        folder = os.open(os.path.dirname(path), os.O_RDONLY)
    except OSError:
        return
    try:
        os.fsync(folder)
    except OSError:
        pass
    finally:
        os.close(folder)
