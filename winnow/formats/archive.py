"""A whole shoot as one file: a ZIP (ISO/IEC 21320-1) of JSON (RFC 8259) and JSON lines, which any program can read.

`shoot.json` says what it is; `frames.jsonl`, `history.jsonl`, `passes.jsonl` have one frame, action or pass a line.
"""

from __future__ import annotations

import io
import json
import zipfile
from collections.abc import Iterable, Iterator
from dataclasses import asdict
from typing import Any, TypeVar

from pydantic import TypeAdapter, ValidationError

from winnow.core.archive import About, Archive, ArchivedBatch, ArchivedFrame, ArchivedWalk, ArchiveError
from winnow.core.zips import DAMAGED

FORMAT, VERSION = "winnow-shoot", 1
HEAD, FRAMES, HISTORY, PASSES = "shoot.json", "frames.jsonl", "history.jsonl", "passes.jsonl"
MOST_BYTES = 256 * 1024**2
"""Of all that is packed: a shoot of 50,000 frames with 500,000 marks takes 100 MB."""
MOST_LINE_BYTES = 16 * 1024**2
"""One action on 50,000 frames takes 4 MB."""
MOST_LINES = {FRAMES: 500_000, HISTORY: 2_000_000, PASSES: 10_000}
TOO_MUCH = "This archive unpacks to more than any shoot takes: it is damaged, or was made to do harm."
SAME_DATE = (1980, 1, 1, 0, 0, 0)
"""Of the members: the date stands in the head, and the same shoot gives the same bytes."""

_FRAME, _BATCH, _WALK = TypeAdapter(ArchivedFrame), TypeAdapter(ArchivedBatch), TypeAdapter(ArchivedWalk)
_ABOUT = TypeAdapter(About)

One = TypeVar("One")


def packed(archive: Archive) -> bytes:
    """The file of an archive."""
    file = io.BytesIO()
    head = {"format": FORMAT, "version": VERSION, **asdict(archive.about)}
    with zipfile.ZipFile(file, "w", zipfile.ZIP_DEFLATED) as out:
        _add(out, HEAD, [json.dumps(head, ensure_ascii=False, indent=1)])
        _add(out, FRAMES, (_FRAME.dump_json(one).decode() for one in archive.frames))
        _add(out, HISTORY, (_BATCH.dump_json(one).decode() for one in archive.history))
        _add(out, PASSES, (_WALK.dump_json(one).decode() for one in archive.walks))
    return file.getvalue()


def _add(out: zipfile.ZipFile, name: str, lines: Iterable[str]) -> None:
    info = zipfile.ZipInfo(name, SAME_DATE)
    info.compress_type = zipfile.ZIP_DEFLATED
    out.writestr(info, "".join(f"{line}\n" for line in lines))


def unpacked(content: bytes) -> Archive:
    """The archive in a file. Raises ArchiveError, which says what is wrong with it."""
    try:
        with zipfile.ZipFile(io.BytesIO(content)) as file:
            head = json.loads(_read(file, HEAD, 1 << 24))
            if not isinstance(head, dict) or head.get("format") != FORMAT:
                raise ArchiveError("This is no archive of a shoot: choose a file that Winnow has saved.")
            if head.get("version") != VERSION:
                raise ArchiveError(
                    f"This archive is of version {head.get('version')}, and this Winnow reads {VERSION}: "
                    "open it with a newer one."
                )
            about = _ABOUT.validate_python({k: v for k, v in head.items() if k not in ("format", "version")})
            if sum(info.file_size for info in file.infolist()) > MOST_BYTES:
                raise ArchiveError(TOO_MUCH)
            return Archive(
                about,
                tuple(_lines(file, FRAMES, _FRAME)),
                tuple(_lines(file, HISTORY, _BATCH)),
                tuple(_lines(file, PASSES, _WALK)),
            )
    except ArchiveError:  # a ValueError, as much of what damage makes is
        raise
    except (ValidationError, json.JSONDecodeError, UnicodeDecodeError, RecursionError) as error:
        raise ArchiveError("What stands in this archive cannot be understood: it is damaged.") from error
    except DAMAGED as error:
        raise ArchiveError(
            "This archive is damaged or none at all: save it again, or copy it again."
        ) from error


def _read(file: zipfile.ZipFile, name: str, most: int) -> bytes:
    """A member as far as `most` bytes, whatever its head says of its size."""
    with file.open(name) as member:
        return member.read(most)


def _lines(file: zipfile.ZipFile, name: str, kind: TypeAdapter[Any]) -> Iterator[Any]:
    """Read a member line by line, whatever the head of the file says of its size. Raises ArchiveError."""
    taken = count = 0
    with file.open(name) as member:
        while line := member.readline(MOST_LINE_BYTES + 1):
            taken, count = taken + len(line), count + 1
            if taken > MOST_BYTES or count > MOST_LINES[name] or len(line) > MOST_LINE_BYTES:
                raise ArchiveError(TOO_MUCH)
            if line.strip():
                yield kind.validate_json(line)
