"""File operations that never overwrite and never lose: with `copying` the only code that touches originals.

A target is first written under a part name in its own folder, checked, and then takes its final name
in one step that fails if the name is taken.
"""

from __future__ import annotations

import errno
import hashlib
import os
import shutil
import sys
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from pathlib import Path

from winnow.formats.opening import create_plain, open_regular, rewrite_plain

_NO_LINKS = (errno.EPERM, errno.ENOTSUP, errno.EMLINK, errno.ENOSYS)


Sync = Callable[[str], None]
"""Makes the change of a file's name durable, or notes that it is to be."""


class TargetTakenError(OSError):
    """A file of that name is there and is not ours."""


class OtherDiskError(OSError):
    """A file cannot be renamed to where it should go: it must be copied there."""


def digest_of(path: str, *, from_disk: bool = False) -> str:
    """SHA-256 of a file. `from_disk` asks the system to drop its own copy and read the medium."""
    with open_regular(path) as file:
        if from_disk and sys.platform == "linux":
            os.posix_fadvise(file.fileno(), 0, 0, os.POSIX_FADV_DONTNEED)
        return hashlib.file_digest(file, "sha256").hexdigest()


def same_content(one: str, other: str) -> bool:
    """Whether two files hold the same bytes; sizes are looked at first."""
    return os.path.getsize(one) == os.path.getsize(other) and digest_of(one) == digest_of(other)


def write(content: bytes, target: str, part: str, *, replacing: bool) -> None:
    """Puts `content` at `target` in one step; a file that is replaced hands on its mode and attributes. Without
    `replacing`, raises TargetTakenError where a file is there."""
    if not replacing:
        demand_free(target)
    try:
        with create_plain(part) as writer:
            writer.write(content)
            writer.flush()
            os.fsync(writer.fileno())
        if replacing:
            stat = os.stat(part)
            shutil.copystat(target, part)
            os.utime(part, ns=(stat.st_atime_ns, stat.st_mtime_ns))
            os.replace(part, target)
            sync_folder(target)
        else:
            take_name(part, target)
    except BaseException:
        _remove(part)
        raise


def write_new(wanted: Sequence[tuple[bytes, str, str]], sync: Sync) -> None:
    """Puts contents at targets where nothing is yet: (content, target, part). All are on the disk before the first
    gets its name: so many are written in a fraction of the time. Raises TargetTakenError; those before it have their
    names then."""
    try:
        for content, target, part in wanted:
            demand_free(target)
            with create_plain(part) as writer:
                writer.write(content)
        _sync_all([part for _, _, part in wanted])
        for _, target, part in wanted:
            take_name(part, target, sync)
    except BaseException:
        for _, _, part in wanted:
            _remove(part)
        raise


def put_back(content: bytes, target: str, part: str) -> None:
    """Puts earlier content back in the place of a file of ours. On a full disk in the room that ours takes: what is
    put back stands in the database until then, so nothing is lost if that is cut off."""
    try:
        write(content, target, part, replacing=True)
    except OSError as error:
        if error.errno not in (errno.ENOSPC, errno.EDQUOT):
            raise
        with rewrite_plain(target) as file:
            file.write(content)
            file.truncate()
            file.flush()
            os.fsync(file.fileno())


def rename(source: str, target: str, sync: Sync | None = None) -> None:
    """Moves a file by its name alone, never over another. Raises TargetTakenError, or OtherDiskError where the
    system cannot (another disk, or another mount of the same)."""
    demand_free(target)
    try:
        take_name(source, target, sync)
    except OSError as error:
        if error.errno != errno.EXDEV:
            raise
        raise OtherDiskError(errno.EXDEV, "it lies on another disk", target) from error
    (sync or sync_folder)(source)


def remove(path: str) -> None:
    """Removes a file whose content is safe elsewhere, for good."""
    os.unlink(path)
    sync_folder(path)


def take_name(path: str, name: str, sync: Sync | None = None) -> None:
    """Renames within a disk, failing with TargetTakenError where the name is taken.

    A hard link is the portable way to claim a name in one step. Disks without hard links (cards)
    get an empty file that reserves the name and is then replaced.
    """
    try:
        os.link(path, name, follow_symlinks=False)
    except FileExistsError as error:
        raise TargetTakenError(errno.EEXIST, "the name is taken", name) from error
    except OSError as error:
        if error.errno not in _NO_LINKS:
            raise
        try:
            os.close(os.open(name, os.O_CREAT | os.O_EXCL | os.O_WRONLY))
        except FileExistsError as taken:
            raise TargetTakenError(errno.EEXIST, "the name is taken", name) from taken
        try:
            os.replace(path, name)
        except BaseException:
            _remove(name)
            raise
    else:
        os.unlink(path)
    (sync or sync_folder)(name)


def make_link(text: bytes, name: str) -> None:
    """A symbolic link; raises TargetTakenError where the name is taken."""
    try:
        os.symlink(text, os.fsencode(name))
    except FileExistsError as error:
        raise TargetTakenError(errno.EEXIST, "the name is taken", name) from error
    sync_folder(name)


def is_reservation(path: str, size: int) -> bool:
    """Whether a file is what `take_name` leaves when it is cut off on a disk without hard links: empty, where a file
    of `size` bytes was to go. An empty original is never taken for one."""
    return size > 0 and os.path.isfile(path) and os.path.getsize(path) == 0


def demand_free(target: str) -> None:
    """Raises TargetTakenError where a file is there."""
    if os.path.lexists(target):
        raise TargetTakenError(errno.EEXIST, "the name is taken", target)


def _remove(path: str) -> None:
    Path(path).unlink(missing_ok=True)


def _sync_all(paths: Sequence[str]) -> None:
    """Waits until files are on their disk. Linux waits for all that there is to be written (sync(2)), which takes
    about as long as one file does."""
    if sys.platform == "linux" and len(paths) > 1:
        os.sync()
        return
    for path in paths:
        handle = os.open(path, os.O_RDWR if sys.platform == "win32" else os.O_RDONLY)
        try:
            os.fsync(handle)
        finally:
            os.close(handle)


@contextmanager
def synced_at_end() -> Iterator[Sync]:
    """Changes of names made durable together: folder by folder, when all are done."""
    changed: dict[str, str] = {}

    def note(path: str) -> None:
        changed[os.path.dirname(path)] = path

    try:
        yield note
    finally:
        for path in changed.values():
            sync_folder(path)


def sync_folder(path: str) -> None:
    """Makes a change of names in the folder of a file durable; some file systems cannot, and say so."""
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
