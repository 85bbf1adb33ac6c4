"""Evidence of frames."""

from __future__ import annotations

import json
from sqlite3 import Row
from typing import Annotated, Any

from fastapi import Query

from winnow.api.desk import (
    FRAME_PROBLEMS,
    OfFrame,
    OnDesk,
    demand_frames,
)
from winnow.api.models.base import Finite, Id
from winnow.api.models.evidence import (
    CoverFrame,
    CoverSetView,
    EvidenceView,
    ExposureView,
    FaceView,
    FocusView,
    FoundPoint,
    MotionView,
)
from winnow.api.problems import Code, ProblemError, answers
from winnow.api.routes import routes
from winnow.core.cover_set import Shown, cover_set
from winnow.core.faces.eyes import EyeState
from winnow.core.focus.verdict import FocusVerdict
from winnow.core.match import SURE
from winnow.core.turning import Turned
from winnow.pipeline.points import NotPreparedError
from winnow.pipeline.report import sharp_share
from winnow.pipeline.workers import WorkerCrashedError
from winnow.store import evidence, frames

router = routes("/api", "evidence")


@router.get("/frames/{frame_id}/evidence", responses=answers(*FRAME_PROBLEMS))
def get_evidence(desk: OnDesk, frame_id: OfFrame) -> EvidenceView:
    """What was measured on a frame, and what it says beside the others of its group."""
    connection = desk.database.connection()
    return _view(evidence.details(connection, frame_id), frames.turns(connection, [frame_id])[frame_id])


@router.get("/evidence", responses=answers(*FRAME_PROBLEMS, Code.NOT_OF_THIS_SHOOT))
def list_evidence(
    desk: OnDesk, frame: Annotated[list[Id], Query(min_length=1, max_length=500)]
) -> dict[int, EvidenceView]:
    """The same of several frames of a shoot at once."""
    demand_frames(desk, frame)
    connection = desk.database.connection()
    turns = frames.turns(connection, frame)
    return {frame_id: _view(evidence.details(connection, frame_id), turns[frame_id]) for frame_id in frame}


@router.get("/frames/{frame_id}/cover-set", responses=answers(*FRAME_PROBLEMS))
def get_cover_set(desk: OnDesk, frame_id: OfFrame) -> CoverSetView:
    """The fewest frames of this frame's group in which everybody is well shown."""
    connection = desk.database.connection()
    ids = [row["id"] for row in frames.group_of(connection, frame_id)]
    judged = [evidence.judgement(connection, one) for one in ids]
    known = [(one, found) for one, found in zip(ids, judged, strict=True) if found is not None]
    shown = [
        [
            Shown(
                face["person"],
                face["facing"],
                tuple(EyeState(eye["state"]) for eye in face["eyes"]),
                face["sigma_px"],
            )
            for face in found["faces"]
        ]
        for _, found in known
    ]
    cover = cover_set(shown, [found["rank"] for _, found in known])
    return CoverSetView(
        frames=[CoverFrame(id=known[at][0], people=list(people)) for at, people in cover.frames.items()],
        nobody=list(cover.nobody),
    )


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
) -> list[FoundPoint]:
    """Where other frames show what this one shows at a point, px of the full picture as it is shown. Frames that are
    not measured yet are left out."""
    demand_frames(desk, [frame_id])
    demand_frames(desk, [frame_id, *among])
    turns = frames.turns(desk.database.connection(), [frame_id, *among])
    x, y = turns[frame_id].back(x, y)
    try:
        found = desk.points.find(frame_id, x, y, among)
    except (NotPreparedError, WorkerCrashedError) as error:
        raise ProblemError(Code.NOT_MEASURED, str(error)) from error
    return [
        FoundPoint(
            frame_id=other, x=at[0], y=at[1], confidence=match.confidence, sure=match.confidence >= SURE
        )
        for other, match in found.items()
        for at in [turns[other].point(match.x, match.y)]
    ]


def _view(found: Row | None, turned: Turned) -> EvidenceView:
    if found is None:
        return EvidenceView(state="waiting")
    if found["content"] is None:
        return EvidenceView(state="failed", problem=found["problem"])
    if found["judgement"] is None:
        return EvidenceView(state="waiting")
    content, judged = json.loads(found["content"]), json.loads(found["judgement"])
    focus, exposure = content["focus"], content["exposure"]
    motion = focus["motion"]
    if motion:
        motion = {**motion, "angle_deg": turned.angle(motion["angle_deg"])}
    return EvidenceView(
        state="measured",
        focus=FocusView(
            verdict=FocusVerdict(judged["verdict"]),
            subject=_placed(judged["subject"], turned),
            instead=_placed(judged["instead"], turned),
            sharpest=_placed(focus["sharpest"], turned),
            motion=motion and MotionView.model_validate(motion, extra="ignore"),
            sharp_share=sharp_share(focus["sigma_px"]),
            tile_px=focus["tile_px"],
            sigma_px=turned.tiles(focus["sigma_px"]),
        ),
        exposure=ExposureView(
            verdict=judged["exposure"],
            group_stops=judged["group_stops"],
            high_at=exposure["high_at"] and turned.share(exposure["high_at"]),
            low_at=exposure["low_at"] and turned.share(exposure["low_at"]),
            **{
                name: exposure[name]
                for name in ExposureView.model_fields
                if name not in ("verdict", "group_stops", "high_at", "low_at")
            },
        ),
        faces=[_face(face, turned) for face in judged["faces"]],
        lead=judged["lead"],
        rank=judged["rank"],
        reasons=[_placed(reason, turned) for reason in judged["reasons"]],
    )


def _placed(found: dict[str, Any] | None, turned: Turned) -> Any:
    """Something with a place on the picture, where it is shown."""
    if found is None or found.get("x") is None:
        return found
    x, y = turned.point(found["x"], found["y"])
    return {**found, "x": x, "y": y}


def _face(face: dict[str, Any], turned: Turned) -> FaceView:
    eyes = [_placed(eye, turned) for eye in face["eyes"]]
    return FaceView.model_validate({**face, "box": turned.box(face["box"]), "eyes": eyes})
