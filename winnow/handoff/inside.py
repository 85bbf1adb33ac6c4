"""Plans that write marks into pictures, for programs that read nothing else. An original is replaced by a verified
copy of itself with another packet in it; what leads back, to the byte, is kept first."""

from __future__ import annotations

import json
import os
from collections.abc import Callable
from pathlib import Path
from sqlite3 import Connection

from winnow.core.marks import MARK_FIELDS, UNMARKED, Field, value_of, with_value
from winnow.core.pairing import Role
from winnow.formats import images
from winnow.formats.fingerprint import digest_of_bytes, fingerprint_of
from winnow.formats.inside import can_hold, rewriting
from winnow.formats.opening import read_plain
from winnow.formats.splices import InsideError, Rewriting, sha256
from winnow.formats.xmp import XmpError
from winnow.handoff import files, sidecars
from winnow.handoff.draft import Draft, built_for
from winnow.handoff.recipe import OtherPacketError, Recipe
from winnow.handoff.step_parts import LeftError, changed, changed_since, gone, part_name
from winnow.pipeline.scan import date_of, mtime_of
from winnow.store import bases, frames, labels, plans
from winnow.store.bases import Base
from winnow.store.database import display
from winnow.store.frame_files import ListedFile
from winnow.store.mark_rows import marks_of, values
from winnow.store.plans import Action, Step
from winnow.store.undo_bytes import unpack_undo

LARGEST = 2 * 1024**3
"""A picture is read as a whole."""


def write_inside(draft: Draft) -> None:
    """A step for every frame that was ever marked here and whose file says otherwise; of RAW and JPEG, the JPEG."""
    connection, shoot_id = draft.connection, draft.shoot.id
    marked = draft.rests_on
    known = bases.of_shoot(connection, shoot_id)
    named = labels.current(connection)
    without = 0
    for frame_id, held in draft.files_of(draft.chosen):
        file = _holder(held)
        if file is None:
            without += 1
            continue
        base = known.get(frame_id, {}).get(file.path)
        agreed, mine = base.marks if base else UNMARKED, draft.wish.fields_of(frame_id)
        try:
            packet = images.read_head(Path(file.path)).packet
        except images.UnreadableError as error:
            draft.warnings.append(f"{display(os.path.basename(file.path))} is left as it is: {error}")
            continue
        dates = (date_of(os.stat(file.path)), file.mtime_ns)
        built = built_for(
            draft,
            frame_id,
            file.path,
            lambda standing, packet=packet, dates=dates, i=frame_id, agreed=agreed, mine=mine: (  # type: ignore[misc]
                sidecars.build_inside(packet, dates, marked[i], agreed, standing, named, mine)
            ),
        )
        if built is None or built.recipe is None:
            continue
        step = Step(frame_id, Action.EMBED, file.path, file.path, file.size, mtime_ns=file.mtime_ns)
        step.recipe = built.recipe.text
        draft.steps.append(step)
        draft.frames += 1
    if without:
        draft.warnings.append(
            f"{without} of the frames have no JPEG, TIFF or DNG to write marks into: write sidecars for those."
        )


def _holder(held: list[ListedFile]) -> ListedFile | None:
    pictures = sorted((f for f in held if f.role != Role.SIDECAR), key=lambda file: file.role != Role.PICTURE)
    file = next((f for f in pictures if can_hold(os.path.basename(f.path)) and f.size <= LARGEST), None)
    return file if file and not os.path.islink(file.path) else None


def prepared(connection: Connection, plan_id: int, step: Step) -> Rewriting:
    """Work out how a file is rewritten, of what it holds now. Raises LeftError."""
    words = plans.rests_on_frame(connection, plan_id, step.frame) or UNMARKED
    try:
        return rewriting(os.path.basename(step.target), read_plain(step.target), _packet(step), words)
    except InsideError as error:
        raise LeftError(f"{display(step.target)} is left as it is: {error}") from error


def _packet(step: Step) -> bytes:
    """The packet that a step puts into a picture. Raises LeftError."""
    if step.content is not None:
        return step.content
    assert step.recipe is not None
    try:
        return Recipe.parse(step.recipe).build(images.read_head(Path(step.target)).packet)
    except OtherPacketError as error:
        raise LeftError(changed_since(step.target)) from error
    except (images.UnreadableError, XmpError) as error:
        raise LeftError(f"{display(step.target)} is left as it is: {error}") from error


def embed(step: Step, way: Rewriting) -> str:
    """Replaces a file by itself with the packet in it, verified; again, where that was cut off. Returns its digest.
    Raises LeftError."""
    data = _read(step.target)
    if sha256(data) == way.after:
        return way.after
    _replace(step, data, way.before, way.apply, way.after)
    return way.after


def take_out(step: Step, way: Rewriting | None) -> None:
    """Replaces a file by itself as it was; way: how it was rewritten, None where it was not touched. Raises LeftError
    where somebody has changed it since."""
    Path(part_name(step)).unlink(missing_ok=True)
    if way is None:
        return
    data = _read(step.target)
    if sha256(data) != way.before:
        _replace(step, data, way.after, way.back, way.before)


def way_of(connection: Connection, step: Step) -> Rewriting | None:
    """Return how a step has rewritten a file, or was about to; None where it was not begun."""
    undo = plans.undo_of(connection, step)
    return None if undo is None else Rewriting.unpacked(unpack_undo(undo)[0])


def _replace(step: Step, data: bytes, now: str, change: Callable[[bytes], bytes], then: str) -> None:
    if sha256(data) != now:
        raise LeftError(changed(step.target))
    fresh = change(data)
    if sha256(fresh) != then:
        raise LeftError(f"{display(step.target)} would not become what was meant: it is left as it is.")
    files.write(fresh, step.target, part_name(step), replacing=True)
    if files.digest_of(step.target, from_disk=True) != then:
        files.write(data, step.target, part_name(step), replacing=True)
        raise LeftError(f"{display(step.target)} read back differently and was put back: check its disk.")


def _read(path: str) -> bytes:
    try:
        return read_plain(path)
    except FileNotFoundError as error:
        raise LeftError(gone(path)) from error


def embedded(connection: Connection, plan_id: int, step: Step) -> str:
    """A picture of a frame holds its marks: it is known again by what it is now, and says what both sides agree on,
    but for the properties in which theirs was left. Returns the base it had before, as JSON."""
    packet = images.read_head(Path(step.target)).packet or b""
    before = bases.of_frame(connection, step.frame).get(step.target)
    here = plans.rests_on_frame(connection, plan_id, step.frame) or UNMARKED
    there = sidecars.marks_in(packet, labels.current(connection), None)
    agreed = before.marks if before else UNMARKED
    for name in MARK_FIELDS:
        if name is not Field.TURN and value_of(there, name) == value_of(here, name):
            agreed = with_value(agreed, name, value_of(here, name))
    _know_again(connection, step)
    date = date_of(os.stat(step.target))
    bases.keep(connection, step.frame, Base(step.target, digest_of_bytes(packet), date, agreed))
    frames.touch(connection, step.frame)
    return json.dumps([before.digest, before.at, values(before.marks)] if before else None)


def taken_out(connection: Connection, step: Step) -> None:
    """A picture is again what it was before a plan, and so is what was agreed on."""
    _know_again(connection, step)
    before = json.loads(step.base or "null")
    if before is None:
        bases.forget(connection, step.frame, step.target)
    else:
        digest, at, held = before
        bases.keep(connection, step.frame, Base(step.target, digest, at, marks_of(held)))
    frames.touch(connection, step.frame)


def _know_again(connection: Connection, step: Step) -> None:
    stat = os.stat(step.target)
    plans.picture_rewritten(connection, step.frame, step.target, stat.st_size, mtime_of(stat))
    found = fingerprint_of(Path(step.target))
    frames.set_fingerprint(connection, step.frame, found.content, found.picture)
