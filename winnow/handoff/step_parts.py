"""What the two ways of running a plan have in common: names, small looks at the disk, what is recorded of a step."""

from __future__ import annotations

import json
import os
from contextlib import suppress
from pathlib import Path
from sqlite3 import Connection

from winnow.core.marks import MARK_FIELDS, UNMARKED, Field, Marks, value_of, with_value
from winnow.formats.fingerprint import digest_of_bytes
from winnow.formats.opening import read_plain
from winnow.formats.xmp import XmpError
from winnow.handoff.recipe import OtherPacketError, Recipe
from winnow.handoff.sidecars import marks_in
from winnow.pipeline.scan import HOLDING_MARKER, date_of, mtime_of
from winnow.store import bases, frames, labels, marks, plans
from winnow.store.bases import Base
from winnow.store.database import display
from winnow.store.mark_rows import marks_of, values
from winnow.store.plans import PlanKind, Step

PLACES = {
    PlanKind.MOVE_KEEPERS: "moved",
    PlanKind.HOLD_REJECTS: "held",
    PlanKind.BRING_BACK: "shoot",
    PlanKind.RENAME: "shoot",
}
"""Where a plan that moves files takes their frames."""


ELSEWHERE = (PlanKind.COPY_KEEPERS, PlanKind.IMPORT, PlanKind.PROOF)
"""Plans that write beside copies, which are no files of the frame that is known."""


class LeftError(Exception):
    """This step cannot be done, the others can; the message says why."""


def part_name(step: Step, beside: str | None = None) -> str:
    """The name under which a file is unfinished, in the folder of the step's target, or of `beside`."""
    return os.path.join(os.path.dirname(beside or step.target), f".winnow-{step.id}.part")


def bytes_at(path: str) -> bytes | None:
    try:
        return read_plain(path)
    except FileNotFoundError:
        return None


def gone(path: str) -> str:
    return f"{display(path)} is no longer there."


def changed(path: str) -> str:
    return f"{display(path)} was changed since and stays where it is."


def changed_since(path: str) -> str:
    return f"{display(path)} was changed after the plan was made: make the plan again to see both."


def content_of(step: Step) -> bytes:
    """Build what a step writes. Raises LeftError where what it is built of is not as it was planned with."""
    if step.content is not None:
        return step.content
    assert step.recipe is not None
    built_of = step.source if step.previous_digest is None else step.target
    try:
        packet = bytes_at(built_of) if built_of is not None else None
        return Recipe.parse(step.recipe).build(packet)
    except OtherPacketError as error:
        raise LeftError(changed_since(built_of or step.target)) from error
    except XmpError as error:
        raise LeftError(f"{display(step.target)} is left as it is: {error}") from error


def remove_empty(folder: str, *, holding: bool = False) -> None:
    """Removes a folder that nothing is left in; for a holding folder, up to its marker."""
    with suppress(OSError):
        if holding:
            marker = Path(folder) / HOLDING_MARKER
            if marker.exists():
                if os.listdir(folder) == [HOLDING_MARKER]:
                    marker.unlink()
                    os.rmdir(folder)
                return
            os.rmdir(folder)
            remove_empty(os.path.dirname(folder), holding=True)
            return
        os.rmdir(folder)


def sidecar_written(connection: Connection, plan_id: int, step: Step, content: bytes) -> str:
    """A sidecar of a frame in the shoot was written: it is the frame's, and says what both sides agree on now, but
    for the properties in which theirs was left. Returns the base it had before, as JSON."""
    path = step.target
    known = bases.of_frame(connection, step.frame)
    # On its way to another disk a sidecar is still known where it came from.
    before = known.get(path) or known.get(step.source or "")
    here = plans.rests_on_frame(connection, plan_id, step.frame) or UNMARKED
    there = marks_in(content, labels.current(connection), frames.orientation(connection, step.frame))
    agreed = before.marks if before else UNMARKED
    for name in MARK_FIELDS:
        if value_of(there, name) == value_of(here, name):
            agreed = with_value(agreed, name, value_of(here, name))
    _note_sidecar(connection, step, agreed, content)
    return json.dumps(values(before.marks) if before else None)


def sidecar_named(connection: Connection, step: Step, content: bytes) -> str:
    """A sidecar was written in which the first name of its frame is new, and nothing else: what both sides agree on
    stays. Returns the base it had before, as JSON."""
    before = bases.of_frame(connection, step.frame).get(step.target)
    _note_sidecar(connection, step, before.marks if before else UNMARKED, content)
    return json.dumps(values(before.marks) if before else None)


def sidecar_put_back(connection: Connection, step: Step, previous: bytes | None) -> None:
    """A sidecar is again what it was before a plan, and so is what was agreed on. previous: what it holds, None where
    there was none."""
    if previous is None:
        plans.sidecar_removed(connection, step.frame, step.target)
        return
    before = json.loads(step.base or "null")
    agreed = marks_of(before) if before else UNMARKED
    _note_sidecar(connection, step, agreed, previous)


def _note_sidecar(connection: Connection, step: Step, agreed: Marks, content: bytes) -> None:
    stat = os.stat(step.target)
    plans.sidecar_written(connection, step.frame, step.target, stat.st_size, mtime_of(stat))
    bases.keep(connection, step.frame, Base(step.target, digest_of_bytes(content), date_of(stat), agreed))
    frames.set_incoming(connection, step.frame, _waits(connection, step.frame, agreed, content))
    frames.touch(connection, step.frame)


def _waits(connection: Connection, frame_id: int, agreed: Marks, content: bytes) -> bool:
    """Whether a sidecar still says something that nobody took over or turned down."""
    orientation = frames.orientation(connection, frame_id)
    there = marks_in(content, labels.current(connection), orientation)
    here = marks.current(connection, [frame_id])[frame_id]
    return any(
        value_of(there, name) not in (value_of(agreed, name), value_of(here, name))
        for name in MARK_FIELDS
        if name is not Field.TURN or orientation is not None
    )
