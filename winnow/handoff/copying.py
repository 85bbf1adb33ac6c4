"""Files copied, to one place or to several at once, and verified by reading what was written again."""

from __future__ import annotations

import errno
import hashlib
import os
import shutil
from collections.abc import Iterator, Sequence
from concurrent.futures import ThreadPoolExecutor
from contextlib import ExitStack, contextmanager
from dataclasses import dataclass
from pathlib import Path
from typing import BinaryIO

from winnow.formats.opening import create_plain, open_plain
from winnow.handoff.files import demand_free, digest_of, take_name

BLOCK = 4 * 1024 * 1024
TRIES = 3

_hashing = ThreadPoolExecutor(max_workers=4, thread_name_prefix="hashing")


class VerificationError(OSError):
    """What was read back from the disk is not what was written."""


class SourceError(OSError):
    """The file to be copied cannot be read, or reads differently each time."""


@dataclass(frozen=True, slots=True)
class Place:
    """Where a copy goes, and the name for the unfinished one, in the same folder, which must be there."""

    target: str
    part: str


@dataclass(frozen=True, slots=True)
class Copied:
    """SHA-256 of a copied file, and how often it had to be copied until all agreed."""

    digest: str
    tries: int


def copy(source: str, places: Sequence[Place], below: str | None = None, *, twice: bool = False) -> Copied:
    """Copies a file to all places, reading it once, and reads back what was written.

    below: folder that the source must really lie in (see `formats.opening`). twice: the source is read once more from
    its medium, which tells wrong bytes that it gave once. What does not agree is copied again, a few times. Times,
    mode and extended attributes come along as far as the disks take them. Raises TargetTakenError, SourceError,
    VerificationError or OSError; the source is never changed and no unfinished file keeps a target's name.
    """
    for place in places:
        demand_free(place.target)
    try:
        copied = _verified(source, [place.part for place in places], below, twice)
        for place in places:
            take_name(place.part, place.target)
    except BaseException:
        for place in places:
            Path(place.part).unlink(missing_ok=True)
        raise
    return copied


def _verified(source: str, parts: Sequence[str], below: str | None, twice: bool) -> Copied:
    differs = ""
    for tries in range(1, TRIES + 1):
        digest = _write(source, parts, below)
        read = [*parts, *([source] if twice else [])]
        found = _hashing.map(lambda path: digest_of(path, from_disk=True), read)
        differs = next((path for path, now in zip(read, found, strict=True) if now != digest), "")
        if not differs:
            return Copied(digest, tries)
    if differs == source:
        raise SourceError(errno.EIO, "it reads differently each time", source)
    raise VerificationError(errno.EIO, "the copy reads back differently", differs)


def _write(source: str, parts: Sequence[str], below: str | None) -> str:
    """Writes the parts, hashing beside it; returns the SHA-256 of what was read."""
    digest = hashlib.sha256()
    with open_plain(source, below) as reader, ExitStack() as stack:
        writers = [(part, stack.enter_context(create_plain(part))) for part in parts]
        while block := _block(reader, source):
            hashed = _hashing.submit(digest.update, block)
            for part, writer in writers:
                with _named(part):
                    writer.write(block)
            hashed.result()
        for part, writer in writers:
            with _named(part):
                writer.flush()
                os.fsync(writer.fileno())
    for part in parts:
        shutil.copystat(source, part)
    return digest.hexdigest()


def _block(reader: BinaryIO, source: str) -> bytes:
    try:
        return reader.read(BLOCK)
    except OSError as error:
        raise SourceError(error.errno, error.strerror, source) from error


@contextmanager
def _named(path: str) -> Iterator[None]:
    """An error of writing says where: with several targets nothing else does."""
    try:
        yield
    except OSError as error:
        error.filename = path
        raise


def attributes_lost(source: str, copied: str) -> list[str]:
    """Extended attributes of a file that its copy does not have: some disks take none."""
    if not hasattr(os, "listxattr"):
        return []
    try:
        wanted = [name for name in os.listxattr(source) if name.startswith("user.")]
        there = set(os.listxattr(copied)) if wanted else set()
    except OSError:
        there = set()
    return [name for name in wanted if name not in there]
