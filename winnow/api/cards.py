"""Cards over HTTP: which are in, what is on them, and the copy of it."""

from __future__ import annotations

from collections import Counter
from pathlib import Path

from fastapi import Response

from winnow.api.desk import PLAN_PROBLEMS, FolderRefusedError, OfPlan, OnDesk, now
from winnow.api.idempotency import InIdempotency
from winnow.api.models.base import moment
from winnow.api.models.cards import (
    ArrivingNames,
    CardView,
    CopiedLine,
    FailedLine,
    ImportReport,
    SkippedLine,
)
from winnow.api.models.folders import FolderPath
from winnow.api.models.plans import NamesView, NewName, PlanView, PlanWish
from winnow.api.plans import MAKING, NAMES_SHOWN, make_for, wish_of
from winnow.api.problems import CHANGING, Code, ProblemError, answers
from winnow.api.routes import routes
from winnow.core.file_names import free_words
from winnow.core.pairing import fold
from winnow.handoff.from_card import coming_from, folder_for, heads_of, in_order, new_names
from winnow.handoff.report import as_text, report_on
from winnow.pipeline.cards import Card
from winnow.pipeline.here import Here
from winnow.pipeline.scan import FolderUnreadableError, by_this_clock
from winnow.store import plans, shoots
from winnow.store.database import display
from winnow.store.plans import PlanKind

router = routes("/api", "cards")

LINES_SHOWN = 1000


@router.get("/cards", responses=answers())
def list_cards(desk: OnDesk) -> list[CardView]:
    """The cards that are in now."""
    return [_card(card) for card in desk.slots.cards(desk.database.connection())]


@router.post("/cards/look", responses=answers(*CHANGING, Code.FOLDER_REFUSED))
def look_at_card(desk: OnDesk, folder: FolderPath) -> CardView:
    """What is in a folder that files are to come from. Changes nothing."""
    try:
        return _card(desk.slots.look(desk.database.connection(), str(desk.source(folder.path))))
    except (FolderRefusedError, FolderUnreadableError) as error:
        raise ProblemError(Code.FOLDER_REFUSED, str(error)) from error


@router.post("/imports/names", responses=answers(*CHANGING, Code.FOLDER_REFUSED))
def preview_arriving_names(desk: OnDesk, wish: ArrivingNames) -> NamesView:
    """What the files on a card that are not here yet would be called by a pattern, the first of them. Nothing is
    touched."""
    words = free_words(wish.naming.pattern)
    try:
        source = str(desk.source(wish.source))
        here = Here(desk.database.connection(), source)
        every = [
            frame
            for frame in coming_from(source, [])
            if not all(here.seems_known(f.size, f.mtime_ns) for f in frame.files if f.role != "sidecar")
        ]
        coming = every[:NAMES_SHOWN]
        naming = wish.naming.naming()
        heads = heads_of(coming, naming, wish.into)
        order = in_order(len(coming), heads)
        title = Path(wish.target).name
        new = new_names([coming[i] for i in order], [heads[i] for i in order], naming, title)
    except FolderRefusedError as error:
        raise ProblemError(Code.FOLDER_REFUSED, str(error)) from error
    except ValueError as error:
        return NamesView(names=[], frames=0, clashes=0, words=words, missing=str(error))
    called = [
        (coming[i].name, name or "", folder_for(heads[i], wish.into))
        for i, name in zip(order, new, strict=True)
    ]
    counted = Counter(fold(f"{folder}/{name}") for _, name, folder in called)
    listed = [
        NewName(before=before, after=name, clash=counted[fold(f"{folder}/{name}")] > 1)
        for before, name, folder in called
    ]
    clashes = sum(n for n in counted.values() if n > 1)
    return NamesView(names=listed, frames=len(every), clashes=clashes, words=words, missing=None)


@router.post("/imports", responses=MAKING)
def plan_import(desk: OnDesk, wish: PlanWish, idempotency: InIdempotency) -> PlanView:
    """Works out what is to be copied from a card, and where it goes: the folder becomes a shoot when the plan is
    applied. Nothing is touched until then."""
    if wish.kind is not PlanKind.IMPORT or not wish.target or not wish.source:
        raise ProblemError(Code.CANNOT_BE_DONE, "Say what is to be copied, and to which folder.")
    try:
        target = desk.allowed(wish.target)
        wanted = wish_of(desk, wish)
    except (FolderRefusedError, ValueError) as error:
        refused = isinstance(error, FolderRefusedError)
        raise ProblemError(Code.FOLDER_REFUSED if refused else Code.CANNOT_BE_DONE, str(error)) from error
    with desk.database.transaction() as connection:
        shoot_id = shoots.open_folder(connection, target, now(), hidden=True)
    return make_for(desk, shoot_id, wanted, idempotency)


@router.get("/plans/{plan_id}/report", responses=answers(*PLAN_PROBLEMS))
def get_report(desk: OnDesk, plan: OfPlan) -> ImportReport:
    """What became of the files of an import so far."""
    found = report_on(plans.steps(desk.database.connection(), plan.id))
    return ImportReport(
        copied=[CopiedLine.model_validate(line) for line in found.copied[:LINES_SHOWN]],
        copied_count=len(found.copied),
        skipped=[SkippedLine(source=s, target=t) for s, t in found.skipped[:LINES_SHOWN]],
        skipped_count=len(found.skipped),
        failed=[FailedLine(source=s, reason=why) for s, why in found.failed[:LINES_SHOWN]],
        failed_count=len(found.failed),
        waiting=found.waiting,
    )


@router.get(
    "/plans/{plan_id}/report/text",
    responses={**answers(*PLAN_PROBLEMS), 200: {"content": {"text/plain": {}}}},
    response_class=Response,
)
def save_report(desk: OnDesk, plan: OfPlan) -> Response:
    """The same as a text, complete, as it lies beside the copies."""
    ended = by_this_clock(plan.ended_at) if plan.ended_at else "not yet"
    text = as_text(plan, report_on(plans.steps(desk.database.connection(), plan.id)), ended)
    headers = {"Content-Disposition": f'attachment; filename="copied-{plan.id}.txt"'}
    return Response(text.encode("utf-8", "replace"), media_type="text/plain; charset=utf-8", headers=headers)


def _card(card: Card) -> CardView:
    pictures = Path.home() / "Pictures"
    day = by_this_clock(card.latest)[:10] if card.latest else ""
    base = pictures if pictures.is_dir() else Path.home()
    return CardView(
        name=display(card.name),
        path=card.path,
        frames=card.frames,
        files=card.files,
        bytes=card.bytes,
        new=card.new,
        latest=moment(card.latest) if card.latest else None,
        proposed=str(base / f"{day} {display(card.name)}".strip()),
    )
