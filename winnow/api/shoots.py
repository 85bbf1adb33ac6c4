"""Shoots: the list, opening, frames, filtered views."""

from __future__ import annotations

from dataclasses import asdict
from pathlib import Path
from typing import Annotated

from fastapi import APIRouter, HTTPException, Query

from winnow.api import models
from winnow.api.desk import Desk, FolderRefusedError, OfShoot, OnDesk, now
from winnow.core.filters import FrameFilter, RatingRule, Warned
from winnow.core.marks import MAX_RATING, Decision
from winnow.store import filters, frames, shoots
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
        cover=models.FrameAddress(id=cover.frame_id, version=cover.version) if cover else None,
        progress=models.Progress.model_validate(desk.engine.progress(shoot.id)),
        **overview,
    )


@router.get("")
def list_shoots(desk: OnDesk) -> list[models.ShootCard]:
    return [card(desk, shoot) for shoot in shoots.all_shoots(desk.database.connection())]


@router.post("", responses={422: {"model": models.Problem}})
def open_shoot(desk: OnDesk, folder: models.FolderPath) -> models.ShootCard:
    try:
        shoot_id = desk.open_folder(folder.path)
    except FolderRefusedError as error:
        raise HTTPException(422, str(error)) from error
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
) -> models.View:
    """The frames that pass a filter, and the count of each."""
    try:
        wanted = FrameFilter(
            frozenset(decision or ()), rating_rule, stars, warned, frozenset(warning or ()), faces, similar
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
