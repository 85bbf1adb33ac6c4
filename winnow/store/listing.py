"""What lies on disk, held against the frames that are known: who is where, who is gone, who is new."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field

from winnow.core.identity import Exposure, Found, Known, content_version, recognise
from winnow.store import bases, frame_files, frames
from winnow.store.database import from_blob
from winnow.store.frame_files import ListedFrame

Stamp = tuple[int, int]
"""(size, mtime_ns) of a file."""


@dataclass(slots=True)
class Remembered:
    """A frame as the store has it, with its files where they were last: path → (size, mtime)."""

    known: Known
    place: str
    version: str
    digest: str | None
    shown: str | None = None
    files: dict[str, Stamp] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class Identified:
    """What was read of a shown file to tell whose it is. orientation: Exif code. whole: digest of all bytes, where it
    was needed. alike: see `core.identity.Found`."""

    content: str
    picture: str
    exposure: Exposure
    orientation: int = 1
    whole: str | None = None
    alike: bool | None = None


@dataclass(frozen=True, slots=True)
class Question:
    """A shown file of which it must be read whose it is; `at`: the frame last seen under its path or beside it."""

    listed: ListedFrame
    at: Remembered | None


@dataclass(slots=True)
class Comparison:
    """A listing beside the store. `settled`: shown path → frame, where path, size and time say it; `lost`: frames
    that were not met that way."""

    settled: dict[str, int]
    questions: list[Question]
    lost: list[Remembered]


def remembered(connection: sqlite3.Connection, shoot_id: int) -> dict[int, Remembered]:
    """All frames of a shoot, wherever they are."""
    found = {
        row["id"]: Remembered(
            Known(
                row["id"],
                row["name"],
                row["content"],
                row["picture"],
                Exposure(row["captured_at"], row["serial"], row["camera"], row["image_id"]),
                unread=row["problem"] is not None and row["width"] is None,
            ),
            row["place"],
            row["version"],
            row["digest"],
        )
        for row in connection.execute("SELECT * FROM frame WHERE shoot_id = ?", (shoot_id,))
    }
    rows = connection.execute(
        """SELECT file.*, file.frame_id AS frame FROM file JOIN frame ON frame.id = file.frame_id
           WHERE shoot_id = ? ORDER BY role = 'sidecar', role = 'raw'""",
        (shoot_id,),
    )
    for row in rows:
        frame = found[row["frame"]]
        path = from_blob(row["path"])
        frame.files[path] = (row["size"], row["mtime_ns"])
        if frame.shown is None and row["role"] != "sidecar":
            frame.shown = path
    return found


def compare(known: Mapping[int, Remembered], listing: Iterable[ListedFrame]) -> Comparison:
    """Which listed frames are known by path, size and time, and which files must be read to tell."""
    owners = {path: frame for frame in known.values() for path in frame.files}
    settled: dict[str, int] = {}
    met: set[int] = set()
    questions = []
    for listed in listing:
        others = [file for file in listed.files if file.path != listed.shown and file.role != "sidecar"]
        shown = next(file for file in listed.files if file.path == listed.shown)
        sure = [
            owners[file.path]
            for file in (shown, *others)
            if file.path in owners and owners[file.path].files[file.path] == (file.size, file.mtime_ns)
        ]
        # The shown file as it was; or, where it is new beside a RAW file that is as it was, its frame.
        same = next((f for f in sure if f.known.frame_id not in met), None)
        shown_changed = shown.path in owners and owners[shown.path].files[shown.path] != (
            shown.size,
            shown.mtime_ns,
        )
        if same is not None and not shown_changed:
            settled[listed.shown] = same.known.frame_id
            met.add(same.known.frame_id)
            continue
        at = next((owners[f.path] for f in (shown, *others) if f.path in owners), None)
        questions.append(Question(listed, at))
    lost = [frame for frame in known.values() if frame.known.frame_id not in met]
    if not lost:
        questions = []
    return Comparison(settled, questions, lost)


def reconcile(
    connection: sqlite3.Connection,
    shoot_id: int,
    listing: Sequence[tuple[int, ListedFrame]],
    identified: Mapping[str, Identified],
    revision: int,
    closed: Sequence[str] = (),
) -> int:
    """Brings the frames of a shoot in line with what is on disk; returns how many changed.

    listing: (folder, frame) in order. identified: what was read of the files that `compare` asks about, by shown
    path; a file that could not be read is left out. closed: folders that could not be entered: nothing is said of
    the frames in them. A frame that is nowhere becomes `missing` and keeps its marks and its history; it returns
    with its content, under whatever name. A file with another exposure is another frame.
    """
    known = remembered(connection, shoot_id)
    compared = compare(known, [listed for _, listed in listing])
    whose = compared.settled | _recognised(compared, identified)
    given = set(whose.values())
    owners = {path: frame for frame in known.values() for path in frame.files}
    changed = 0
    position = connection.execute(
        "SELECT coalesce(max(position), -1) + 1 FROM frame WHERE shoot_id = ?", (shoot_id,)
    ).fetchone()[0]
    for folder_id, listed in listing:
        frame_id = whose.get(listed.shown)
        if frame_id is None:
            frame_id = connection.execute(
                "INSERT INTO frame (shoot_id, folder_id, name, position, version, revision)"
                " VALUES (?, ?, ?, ?, ?, ?)",
                (shoot_id, folder_id, listed.name, position, listed.version, revision),
            ).lastrowid
            assert frame_id is not None
            position += 1
            changed += 1
            _take_over(connection, frame_id, listed, owners, given)
            frame_files.set_files(connection, frame_id, listed.files)
            continue
        frame = known[frame_id]
        found = identified.get(listed.shown)
        settled = listed.shown in compared.settled
        same_files = frame.files == {f.path: (f.size, f.mtime_ns) for f in listed.files}
        # A frame that left through a plan is that plan's, also when it stopped half way.
        if settled and (frame.place in ("held", "moved") or (frame.place == "shoot" and same_files)):
            continue
        _update(connection, frame, folder_id, listed, found, revision)
        changed += 1
    for frame in known.values():
        if frame.known.frame_id in given or frame.place != "shoot":
            continue
        if any(path.startswith(closed_folder) for path in frame.files for closed_folder in closed):
            continue
        frames.set_place(connection, frame.known.frame_id, "missing", revision)
        changed += 1
    return changed


def _recognised(compared: Comparison, identified: Mapping[str, Identified]) -> dict[str, int]:
    """Shown path → frame, for the files that had to be read."""
    found = []
    for question in compared.questions:
        read = identified.get(question.listed.shown)
        if read is not None:
            at = question.at.known.frame_id if question.at else None
            found.append(
                Found(
                    question.listed.shown,
                    question.listed.name,
                    read.content,
                    read.picture,
                    read.exposure,
                    at,
                    read.alike,
                )
            )
    whose = recognise(found, [frame.known for frame in compared.lost])
    given = set(whose.values())
    for question in compared.questions:
        shown, before = question.listed.shown, question.at
        if shown in whose or before is None or before.known.frame_id in given:
            continue
        # Nothing is known yet of a frame that was only listed: nothing can contradict its file either.
        if before.known.content is None:
            whose[shown] = before.known.frame_id
            given.add(before.known.frame_id)
    return whose


def _take_over(
    connection: sqlite3.Connection,
    frame_id: int,
    listed: ListedFrame,
    owners: Mapping[str, Remembered],
    staying: set[int],
) -> None:
    """A new frame under names that another had: the files are its own from now on. Sidecars that were left from the
    other speak of the other: what they say counts as known, and is not read in as if it were new."""
    for file in listed.files:
        before = owners.get(file.path)
        if before is None:
            continue
        if file.role == "sidecar" and before.files[file.path] == (file.size, file.mtime_ns):
            bases.hand_over(connection, before.known.frame_id, frame_id, file.path)
        if before.known.frame_id not in staying:
            frame_files.drop_file(connection, before.known.frame_id, file.path)


def _update(
    connection: sqlite3.Connection,
    frame: Remembered,
    folder_id: int,
    listed: ListedFrame,
    found: Identified | None,
    revision: int,
) -> None:
    """A known frame as it lies on disk now."""
    shown = next(file for file in listed.files if file.path == listed.shown)
    version, fresh = frame.version, False
    if found is not None:
        same = found.content == frame.known.content
        if same and found.whole is not None and found.whole != frame.digest:
            version = content_version(found.picture, found.orientation, found.exposure, found.whole)
        elif not same:
            version = content_version(found.picture, found.orientation, found.exposure)
        fresh = version != frame.version
    elif frame.shown != listed.shown or frame.files.get(shown.path) != (shown.size, shown.mtime_ns):
        version, fresh = listed.version, True
    bases.follow(connection, frame.known.frame_id, frame.files, listed.files)
    frame_files.set_files(connection, frame.known.frame_id, listed.files)
    sidecars = {f.path: (f.size, f.mtime_ns) for f in listed.files if f.role == "sidecar"}
    marks_may_differ = not sidecars.items() <= frame.files.items() or any(
        path not in sidecars for path in frame.files if path.lower().endswith(".xmp")
    )
    read_again = fresh or marks_may_differ or (found is not None and found.content != frame.known.content)
    connection.execute(
        """UPDATE frame SET folder_id = ?1, name = ?2, place = 'shoot', version = ?3, revision = ?4,
           stage = CASE WHEN ?5 THEN 0 ELSE stage END,
           content = CASE WHEN ?6 THEN NULL ELSE content END,
           digest = CASE WHEN ?7 THEN ?8 ELSE digest END,
           problem = CASE WHEN ?7 THEN NULL ELSE problem END,
           problem_kind = CASE WHEN ?7 THEN NULL ELSE problem_kind END,
           crashes = CASE WHEN ?7 THEN 0 ELSE crashes END,
           note = CASE WHEN ?7 THEN NULL ELSE note END WHERE id = ?9""",
        (
            folder_id,
            listed.name,
            version,
            revision,
            read_again,
            fresh and found is None,
            fresh,
            found.whole if found else None,
            frame.known.frame_id,
        ),
    )
