"""Shoots: the list, opening, frames, filtered views."""

from __future__ import annotations

from itertools import islice
from pathlib import Path
from sqlite3 import Row
from typing import Annotated, Any

from fastapi import Query, Request, Response
from pydantic_core import to_json

from winnow.api.conditional import NOT_MODIFIED, OnCondition
from winnow.api.desk import (
    SHOOT_PROBLEMS,
    Desk,
    FolderRefusedError,
    MovedShootError,
    OfShoot,
    OnDesk,
    Reached,
    now,
)
from winnow.api.models.base import Revision, moment
from winnow.api.models.folders import FolderMatch, FolderPath, FolderWish
from winnow.api.models.frames import FrameAddress, Frames, StageName
from winnow.api.models.shoots import Position, Progress, ShootCard, Shoots
from winnow.api.models.viewing import ColumnName, ColumnsView, View
from winnow.api.problems import CHANGING, Code, MovedMatch, ProblemError, answers, response
from winnow.api.routes import routes
from winnow.api.viewing import Wanted, counts, parts
from winnow.core.marks import Decision
from winnow.handoff.holding import Holding, holdings
from winnow.pipeline import relocation
from winnow.pipeline.disks import DiskSilentError
from winnow.pipeline.relocation import RelocationError
from winnow.pipeline.scan import FolderUnreadableError
from winnow.store import evidence, frames, labels, plans, shoots
from winnow.store.database import display
from winnow.store.frames import FramePlace, Stage
from winnow.store.shoots import Shoot

router = routes("/api/shoots", "shoots")

MOST_SHOOTS = 60
"""Of one answer: as many as three windows show, 30 kB."""
MOST_FRAMES = 2000
"""Of one answer: about 700 kB."""
STAGES: dict[int, StageName] = {
    Stage.LISTED: "listed",
    Stage.READ: "read",
    Stage.THUMBNAIL: "thumbnail",
    Stage.PREVIEW: "preview",
}


def card(desk: Desk, shoot: Shoot) -> ShootCard:
    connection = desk.database.connection()
    tally, cover_id = desk.census(shoot.id).overview(connection, labels.current(connection))
    reached = desk.reached(shoot)
    held = _held(desk, shoot) if tally.places[FramePlace.HELD] and reached is Reached.THERE else []
    first_at, last_at = shoots.span(connection, shoot.id)
    return ShootCard(
        id=shoot.id,
        title=shoot.title,
        folders=[display(path) for _, path in shoot.folders],
        opened_at=moment(shoot.opened_at),
        revision=shoot.revision,
        scan_note=shoot.scan_note,
        gone=reached is not Reached.THERE,
        silent=reached is Reached.SILENT,
        half_done=not desk.runner.busy(shoot.id) and _half_done(desk, shoot.id),
        demo=any(Path(path).parent == desk.database.path.parent / "demo" for _, path in shoot.folders),
        cover=FrameAddress(id=cover_id, version=frames.addresses(connection, [cover_id])[cover_id])
        if cover_id
        else None,
        progress=Progress.model_validate(desk.engine.progress(shoot.id)),
        frames=tally.places[FramePlace.SHOOT],
        keepers=tally.decisions[Decision.KEEP],
        rejects=tally.decisions[Decision.REJECT],
        problems=tally.unreadable,
        again=tally.again + evidence.failed(connection, shoot.id),
        missing=tally.places[FramePlace.MISSING],
        held=tally.places[FramePlace.HELD],
        held_bytes=sum(one.bytes for one in held),
        held_since=min((moment(one.since) for one in held if one.since), default=None),
        first_at=first_at,
        last_at=last_at,
    )


@router.get("", responses=answers())
def list_shoots(
    desk: OnDesk,
    after: Annotated[int, Query(ge=0, le=2**63 - 1)] = 0,
    limit: Annotated[int, Query(ge=1, le=MOST_SHOOTS)] = MOST_SHOOTS,
) -> Shoots:
    """A page of the shoots on the list that may be served, the one opened last first."""
    known = shoots.listed(desk.database.connection(), after)
    served = list(islice(filter(desk.serves, known), limit + 1))
    return Shoots(shoots=[card(desk, shoot) for shoot in served[:limit]], more=len(served) > limit)


@router.post("", responses=answers(*CHANGING, Code.FOLDER_REFUSED, Code.SHOOT_MOVED))
def open_shoot(desk: OnDesk, folder: FolderWish) -> ShootCard:
    """Opens a folder as a shoot. Answers 409 if it is a known shoot whose folder is gone, unless a new one is wanted
    all the same."""
    try:
        shoot_id = desk.open_folder(folder.path, as_new=folder.as_new)
    except (FolderRefusedError, DiskSilentError) as error:
        raise ProblemError(Code.FOLDER_REFUSED, str(error)) from error
    return _card_of(desk, shoot_id)


def moved_shoot(_: Request, error: MovedShootError) -> Response:
    """What is said instead of opening a known shoot a second time, without its marks."""
    match = error.match
    known = MovedMatch(
        shoot_id=error.shoot.id,
        title=error.shoot.title,
        frames=match.frames,
        found=match.found,
        others=match.others,
    )
    return response(Code.SHOOT_MOVED, str(error), moved=known)


WHEREABOUTS = answers(*SHOOT_PROBLEMS, *CHANGING, Code.FOLDER_REFUSED, Code.CANNOT_BE_DONE, Code.BUSY)


@router.post("/{shoot_id}/whereabouts/count", responses=WHEREABOUTS)
def count_whereabouts(desk: OnDesk, shoot: OfShoot, folder: FolderPath) -> FolderMatch:
    """How much of a shoot lies in a folder. Changes nothing."""
    try:
        found = relocation.match(desk.database, shoot, str(desk.folder(folder.path)))
    except (FolderRefusedError, FolderUnreadableError) as error:
        raise ProblemError(Code.FOLDER_REFUSED, str(error)) from error
    return FolderMatch.model_validate(found)


@router.post("/{shoot_id}/whereabouts", responses=WHEREABOUTS)
def set_whereabouts(desk: OnDesk, shoot: OfShoot, folder: FolderPath) -> ShootCard:
    """The shoot's folder is this one from now on; its frames are recognised there, with all their marks."""
    if desk.runner.busy(shoot.id):
        raise ProblemError(Code.BUSY, "A plan runs on this shoot: wait until it has ended.")
    try:
        relocation.relocate(desk.database, shoot, desk.folder(folder.path))
    except FolderRefusedError as error:
        raise ProblemError(Code.FOLDER_REFUSED, str(error)) from error
    except RelocationError as error:
        raise ProblemError(Code.CANNOT_BE_DONE, str(error)) from error
    desk.work_on(shoot.id)
    return _card_of(desk, shoot.id)


@router.post("/{shoot_id}/try-again", responses=answers(*SHOOT_PROBLEMS))
def try_again(desk: OnDesk, shoot: OfShoot) -> ShootCard:
    """Reads the folder again and tries whatever failed once more, except files that are no pictures."""
    desk.engine.open(shoot.id, asked=True)
    return card(desk, shoot)


def _held(desk: Desk, shoot: Shoot) -> list[Holding]:
    """The holding folders of a shoot; none where their disk does not answer."""
    try:
        return desk.disks.ask(shoot.folders[0][1], lambda: holdings(desk.database.connection(), shoot.id))
    except DiskSilentError:
        return []


def _half_done(desk: Desk, shoot_id: int) -> bool:
    """Whether a plan was begun, has not ended and does not run; asked in this order, one that just ends counts as
    neither."""
    return plans.half_done(desk.database.connection(), shoot_id) and not desk.runner.busy(shoot_id)


def _card_of(desk: Desk, shoot_id: int) -> ShootCard:
    shoot = shoots.get(desk.database.connection(), shoot_id)
    assert shoot is not None
    return card(desk, shoot)


@router.get("/{shoot_id}", responses=answers(*SHOOT_PROBLEMS))
def get_shoot(desk: OnDesk, shoot: OfShoot) -> ShootCard:
    """A shoot as the list shows it."""
    return card(desk, shoot)


@router.delete("/{shoot_id}", status_code=204, responses=answers(*SHOOT_PROBLEMS, Code.NO_ROOM))
def take_off_list(desk: OnDesk, shoot: OfShoot) -> None:
    """Takes the shoot off the list. No file is touched; opening the folder brings all back."""
    with desk.database.transaction() as connection:
        shoots.hide(connection, shoot.id)


@router.post("/{shoot_id}/refresh", responses=answers(*SHOOT_PROBLEMS, Code.NO_ROOM))
def refresh_shoot(desk: OnDesk, shoot: OfShoot) -> ShootCard:
    """Reads what changed on disk."""
    with desk.database.transaction() as connection:
        for _, path in shoot.folders[:1]:
            shoots.open_folder(connection, Path(path), now())
    desk.work_on(shoot.id)
    return card(desk, shoot)


@router.get(
    "/{shoot_id}/frames",
    response_model=Frames,
    responses=answers(*SHOOT_PROBLEMS) | NOT_MODIFIED,
)
def list_frames(
    desk: OnDesk,
    shoot: OfShoot,
    condition: OnCondition,
    since: Revision = 0,
    after: Annotated[int, Query(ge=0, le=2**63 - 1)] = 0,
    limit: Annotated[int, Query(ge=1, le=MOST_FRAMES)] = MOST_FRAMES,
) -> Response:
    """A page of the frames of a shoot, by id, or of those that changed after revision `since`."""
    unchanged = condition.unchanged(shoot.id, shoot.revision, since, after, limit)
    if unchanged:
        return unchanged
    rows = frames.changed(desk.database.connection(), shoot.id, since, after, limit + 1)
    page = {
        "revision": shoot.revision,
        "frames": [_summary(row) for row in rows[:limit]],
        "more": len(rows) > limit,
    }
    # Written as it is: building and checking models of our own rows would take four times as long.
    return Response(to_json(page), media_type="application/json", headers=condition.headers)


def _summary(row: Row) -> dict[str, Any]:
    """A row as `FrameSummary` says; the tests hold the answers against that."""
    values: dict[str, Any] = dict(zip(row.keys(), row, strict=True))  # a Row looks for each by its name
    values["stage"] = STAGES[values["stage"]]
    values["roles"] = sorted(values["roles"].split(",")) if values["roles"] else []
    values["warnings"] = values["warnings"].split()
    values["people"] = list(map(int, values["people"].split()))
    for name in ("bracket", "lead", "again", "profiled", "edited", "incoming"):
        values[name] = bool(values[name])
    return values


@router.get(
    "/{shoot_id}/view",
    response_model=View,
    responses=answers(*SHOOT_PROBLEMS, Code.CANNOT_BE_DONE) | NOT_MODIFIED,
)
def get_view(
    desk: OnDesk,
    shoot: OfShoot,
    condition: OnCondition,
    wanted: Wanted,
) -> Response:
    """The frames that pass a filter, and the count of each."""
    unchanged = condition.unchanged(shoot.id, shoot.revision, wanted.filter, wanted.labels)
    if unchanged:
        return unchanged
    census, connection = desk.census(shoot.id), desk.database.connection()
    ids, tally, revision = census.look(connection, wanted.filter, wanted.labels)
    total = tally.places[FramePlace.SHOOT]
    view = View.model_construct(
        None,
        revision=revision,
        ids=ids,
        hidden=total - len(ids),
        show=wanted.show,
        parts=parts(wanted),
        **counts(tally),
    )
    return Response(view.model_dump_json(), media_type="application/json", headers=condition.headers)


@router.get("/{shoot_id}/columns", response_model=ColumnsView, responses=answers(*SHOOT_PROBLEMS))
def get_columns(desk: OnDesk, shoot: OfShoot, names: Annotated[list[ColumnName], Query()]) -> Response:
    """Some of what is known of frames, of all of them at once: to sort them by, and for tables."""
    ids, columns = desk.census(shoot.id).told(desk.database.connection(), names)
    return Response(to_json({"ids": ids, "columns": columns}), media_type="application/json")


@router.post("/{shoot_id}/look", status_code=204, responses=answers(*SHOOT_PROBLEMS))
def look_at(desk: OnDesk, shoot: OfShoot, where: Position) -> None:
    """Says where the person is looking, so that what is near is prepared first."""
    desk.engine.look_at(shoot.id, where.position)
