"""Shoots: the list, opening, frames, filtered views."""

from __future__ import annotations

from dataclasses import asdict
from pathlib import Path
from typing import Annotated

from fastapi import APIRouter, HTTPException, Query, Request
from fastapi.responses import JSONResponse

from winnow.api import models
from winnow.api.desk import Desk, FolderRefusedError, MovedShootError, OfShoot, OnDesk, now
from winnow.core.filters import FrameFilter, RatingRule, Warned
from winnow.core.marks import MAX_RATING, Decision
from winnow.pipeline import relocation
from winnow.pipeline.listing import is_gone
from winnow.pipeline.relocation import RelocationError
from winnow.pipeline.scan import FolderUnreadableError
from winnow.store import filters, frames, plans, shoots
from winnow.store.database import display
from winnow.store.shoots import Shoot

router = APIRouter(prefix="/api/shoots", tags=["shoots"])


def card(desk: Desk, shoot: Shoot) -> models.ShootCard:
    connection = desk.database.connection()
    overview = asdict(shoots.overview(connection, shoot.id))
    overview.pop("previewed")
    cover = frames.picture(connection, overview.pop("cover") or 0)
    return models.ShootCard(
        id=shoot.id,
        title=shoot.title,
        folders=[display(path) for _, path in shoot.folders],
        opened_at=shoot.opened_at,
        revision=shoot.revision,
        scan_note=shoot.scan_note,
        gone=is_gone(desk.database, shoot),
        half_done=plans.half_done(connection, shoot.id) and not desk.runner.busy(shoot.id),
        cover=models.FrameAddress(id=cover.frame_id, version=cover.version) if cover else None,
        progress=models.Progress.model_validate(desk.engine.progress(shoot.id)),
        **overview,
    )


@router.get("")
def list_shoots(desk: OnDesk) -> list[models.ShootCard]:
    return [card(desk, shoot) for shoot in shoots.all_shoots(desk.database.connection())]


@router.post("", responses={409: {"model": models.MovedShoot}, 422: {"model": models.Problem}})
def open_shoot(desk: OnDesk, folder: models.FolderWish) -> models.ShootCard:
    """Opens a folder as a shoot. Answers 409 if it is a known shoot whose folder is gone, unless a new one is wanted
    all the same."""
    try:
        shoot_id = desk.open_folder(folder.path, as_new=folder.as_new)
    except FolderRefusedError as error:
        raise HTTPException(422, str(error)) from error
    return _card_of(desk, shoot_id)


def moved_shoot(_: Request, error: MovedShootError) -> JSONResponse:
    """What is said instead of opening a known shoot a second time, without its marks."""
    known = models.MovedShoot(
        detail=str(error),
        shoot_id=error.shoot.id,
        title=error.shoot.title,
        match=models.FolderMatch.model_validate(error.match),
    )
    return JSONResponse(known.model_dump(), 409)


@router.post("/{shoot_id}/whereabouts/count", responses={422: {"model": models.Problem}})
def count_whereabouts(desk: OnDesk, shoot: OfShoot, folder: models.FolderPath) -> models.FolderMatch:
    """How much of a shoot lies in a folder. Changes nothing."""
    try:
        found = relocation.match(desk.database, shoot, str(desk.folder(folder.path)))
    except (FolderRefusedError, FolderUnreadableError) as error:
        raise HTTPException(422, str(error)) from error
    return models.FolderMatch.model_validate(found)


@router.post("/{shoot_id}/whereabouts", responses={422: {"model": models.Problem}})
def set_whereabouts(desk: OnDesk, shoot: OfShoot, folder: models.FolderPath) -> models.ShootCard:
    """The shoot's folder is this one from now on; its frames are recognised there, with all their marks."""
    if desk.runner.busy(shoot.id):
        raise HTTPException(409, "A plan runs on this shoot: wait until it has ended.")
    try:
        relocation.relocate(desk.database, shoot, desk.folder(folder.path))
    except (FolderRefusedError, RelocationError) as error:
        raise HTTPException(422, str(error)) from error
    desk.engine.open(shoot.id)
    return _card_of(desk, shoot.id)


@router.post("/{shoot_id}/try-again")
def try_again(desk: OnDesk, shoot: OfShoot) -> models.ShootCard:
    """Reads the folder again and tries whatever failed once more, except files that are no pictures."""
    desk.engine.open(shoot.id, asked=True)
    return card(desk, shoot)


def _card_of(desk: Desk, shoot_id: int) -> models.ShootCard:
    shoot = shoots.get(desk.database.connection(), shoot_id)
    assert shoot is not None
    return card(desk, shoot)


@router.get("/{shoot_id}")
def get_shoot(desk: OnDesk, shoot: OfShoot) -> models.ShootCard:
    return card(desk, shoot)


@router.delete("/{shoot_id}", status_code=204)
def take_off_list(desk: OnDesk, shoot: OfShoot) -> None:
    """Takes the shoot off the list. No file is touched; opening the folder brings all back."""
    with desk.database.transaction() as connection:
        shoots.hide(connection, shoot.id)


@router.post("/{shoot_id}/refresh")
def refresh(desk: OnDesk, shoot: OfShoot) -> models.ShootCard:
    """Reads what changed on disk."""
    with desk.database.transaction() as connection:
        for _, path in shoot.folders[:1]:
            shoots.open_folder(connection, Path(path), now())
    desk.engine.open(shoot.id)
    return card(desk, shoot)


@router.get("/{shoot_id}/frames")
def list_frames(desk: OnDesk, shoot: OfShoot, since: int = 0) -> models.Frames:
    """All frames of the shoot, or those that changed after revision `since`."""
    rows = frames.summaries(desk.database.connection(), shoot.id, since)
    return models.Frames(revision=shoot.revision, frames=[models.FrameSummary(**dict(row)) for row in rows])


@router.get("/{shoot_id}/view")
def view(
    desk: OnDesk,
    shoot: OfShoot,
    decision: Annotated[list[Decision] | None, Query()] = None,
    rating_rule: RatingRule | None = None,
    stars: Annotated[int, Query(ge=0, le=MAX_RATING)] = 0,
    warned: bool = False,
    warning: Annotated[list[Warned] | None, Query()] = None,
    faces: bool | None = None,
    similar: bool | None = None,
    copies: bool = False,
) -> models.View:
    """The frames that pass a filter, and the count of each."""
    try:
        wanted = FrameFilter(
            frozenset(decision or ()),
            rating_rule,
            stars,
            warned,
            frozenset(warning or ()),
            faces,
            similar,
            copies,
        )
    except ValueError as error:
        raise HTTPException(422, str(error)) from error
    connection = desk.database.connection()
    ids = filters.passing(connection, shoot.id, wanted)
    tally = desk.tally(shoot)
    total = tally.places["shoot"]
    return models.View(
        ids=ids,
        total=total,
        hidden=total - len(ids),
        tally=models.Tally.model_validate(tally),
        held=tally.places["held"],
        moved=tally.places["moved"],
        missing=tally.places["missing"],
    )


@router.post("/{shoot_id}/look", status_code=204)
def look(desk: OnDesk, shoot: OfShoot, where: models.Position) -> None:
    """Says where the person is looking, so that what is near is prepared first."""
    desk.engine.look_at(shoot.id, where.position)
