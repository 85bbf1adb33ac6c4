"""Evidence of frames, and what a person says of clocks."""

from __future__ import annotations

import json
from sqlite3 import Row
from typing import Annotated

from fastapi import APIRouter, Query

from winnow.api import models
from winnow.api.desk import (
    FRAME_PROBLEMS,
    SHOOT_PROBLEMS,
    OfFrame,
    OfShoot,
    OnDesk,
    demand_frames,
    demand_frames_of,
)
from winnow.api.models import Finite, Id
from winnow.api.problems import CHANGING, Code, ProblemError, answers
from winnow.core.focus.verdict import FocusVerdict
from winnow.core.match import SURE
from winnow.core.order import Stamp, same_moment
from winnow.pipeline.points import NotPreparedError
from winnow.pipeline.report import sharp_share
from winnow.store import evidence

router = APIRouter(prefix="/api", tags=["evidence"])


@router.get("/frames/{frame_id}/evidence", responses=answers(*FRAME_PROBLEMS))
def get_evidence(desk: OnDesk, frame_id: OfFrame) -> models.EvidenceView:
    """What was measured on a frame, and what it says beside the others of its group."""
    return _view(evidence.details(desk.database.connection(), frame_id))


@router.get("/evidence", responses=answers(*FRAME_PROBLEMS, Code.NOT_OF_THIS_SHOOT))
def list_evidence(
    desk: OnDesk, frame: Annotated[list[Id], Query(min_length=1, max_length=500)]
) -> dict[int, models.EvidenceView]:
    """The same of several frames of a shoot at once."""
    demand_frames(desk, frame)
    connection = desk.database.connection()
    return {frame_id: _view(evidence.details(connection, frame_id)) for frame_id in frame}


@router.get(
    "/frames/{frame_id}/same-point",
    responses=answers(*FRAME_PROBLEMS, Code.NOT_OF_THIS_SHOOT, Code.NOT_MEASURED),
)
def find_same_point(
    desk: OnDesk,
    frame_id: Id,
    x: Annotated[Finite, Query(ge=0, le=1e6)],
    y: Annotated[Finite, Query(ge=0, le=1e6)],
    among: Annotated[list[Id], Query(max_length=200)],
) -> list[models.FoundPoint]:
    """Where other frames show what this one shows at a point, px of the upright full picture. Frames that are
    not measured yet are left out."""
    demand_frames(desk, [frame_id])
    demand_frames(desk, [frame_id, *among])
    try:
        found = desk.points.find(frame_id, x, y, among)
    except NotPreparedError as error:
        raise ProblemError(Code.NOT_MEASURED, str(error)) from error
    return [
        models.FoundPoint(
            frame_id=other, x=match.x, y=match.y, confidence=match.confidence, sure=match.confidence >= SURE
        )
        for other, match in found.items()
    ]


@router.post("/shoots/{shoot_id}/clocks", status_code=204, responses=answers(*SHOOT_PROBLEMS, *CHANGING))
def set_clock(desk: OnDesk, shoot: OfShoot, wish: models.ClockWish) -> None:
    """Says how far the clock of a camera is ahead; its frames move in the order of the shoot."""
    with desk.database.transaction() as connection:
        evidence.set_clock(connection, shoot.id, wish.camera, wish.ahead_s)
    desk.regroup(shoot.id)


@router.post(
    "/shoots/{shoot_id}/same-moment",
    status_code=204,
    responses=answers(*FRAME_PROBLEMS, *CHANGING, Code.NOT_OF_THIS_SHOOT, Code.NOT_NOW),
)
def set_clock_by_frames(desk: OnDesk, shoot: OfShoot, wish: models.SameMoment) -> None:
    """Sets the clock of a frame's camera by another camera's frame that shows the same moment."""
    demand_frames_of(desk, shoot, [wish.frame_id, wish.other_id])
    with desk.database.transaction() as connection:
        rows = evidence.for_grouping(connection, shoot.id)
        stamps = [Stamp(row["id"], row["captured_at"], row["name"], row["camera"]) for row in rows]
        try:
            ahead = same_moment(stamps, evidence.clocks(connection, shoot.id), wish.frame_id, wish.other_id)
        except ValueError as error:
            raise ProblemError(Code.NOT_NOW, str(error)) from error
        evidence.set_clock(connection, shoot.id, *ahead)
    desk.regroup(shoot.id)


@router.delete("/shoots/{shoot_id}/clocks", status_code=204, responses=answers(*SHOOT_PROBLEMS, *CHANGING))
def forget_clocks(desk: OnDesk, shoot: OfShoot) -> None:
    """All cameras by their own clocks again."""
    with desk.database.transaction() as connection:
        evidence.forget_clocks(connection, shoot.id)
    desk.regroup(shoot.id)


def _view(found: Row | None) -> models.EvidenceView:
    if found is None:
        return models.EvidenceView(state="waiting")
    if found["content"] is None:
        return models.EvidenceView(state="failed", problem=found["problem"])
    if found["judgement"] is None:
        return models.EvidenceView(state="waiting")
    content, judged = json.loads(found["content"]), json.loads(found["judgement"])
    focus, exposure = content["focus"], content["exposure"]
    motion = focus["motion"]
    return models.EvidenceView(
        state="measured",
        focus=models.FocusView(
            verdict=FocusVerdict(judged["verdict"]),
            subject=judged["subject"],
            instead=judged["instead"],
            sharpest=focus["sharpest"],
            motion=motion and models.MotionView.model_validate(motion, extra="ignore"),
            sharp_share=sharp_share(focus["sigma_px"]),
            tile_px=focus["tile_px"],
            sigma_px=focus["sigma_px"],
        ),
        exposure=models.ExposureView(
            verdict=judged["exposure"],
            group_stops=judged["group_stops"],
            **{
                name: exposure[name]
                for name in models.ExposureView.model_fields
                if name not in ("verdict", "group_stops")
            },
        ),
        faces=judged["faces"],
        lead=judged["lead"],
        rank=judged["rank"],
        reasons=judged["reasons"],
    )
