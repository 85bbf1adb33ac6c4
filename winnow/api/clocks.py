"""Clocks of the cameras of a shoot: what a person says of them, and what the frames suggest."""

from __future__ import annotations

from winnow.api.desk import FRAME_PROBLEMS, SHOOT_PROBLEMS, OfShoot, OnDesk, demand_frames_of
from winnow.api.models.frames import FrameAddress
from winnow.api.models.grouping import Clocks, ClockView, ClockWish, MomentPair, SameMoment
from winnow.api.problems import CHANGING, Code, ProblemError, answers
from winnow.api.routes import routes
from winnow.core.moments import Suggestion
from winnow.core.order import same_moment
from winnow.pipeline import clocks
from winnow.store import evidence, frames

router = routes("/api", "clocks")


@router.get("/shoots/{shoot_id}/clocks", responses=answers(*SHOOT_PROBLEMS))
def get_clocks(desk: OnDesk, shoot: OfShoot) -> Clocks:
    """The cameras of a shoot, what is said of their clocks, and what frames that seem to show the same moment say."""
    connection = desk.database.connection()
    said = evidence.clocks(connection, shoot.id)
    found = {one.camera: one for one in clocks.suggested(connection, shoot.id)}
    versions = frames.addresses(
        connection, [i for one in found.values() for p in one.pairs for i in (p.one, p.other)]
    )
    return Clocks(
        cameras=[
            _camera(camera, name, count, said.get(camera, 0.0), found.get(camera), versions)
            for camera, name, count in evidence.cameras(connection, shoot.id)
        ]
    )


def _camera(
    camera: str, name: str, count: int, said: float, found: Suggestion | None, versions: dict[int, str]
) -> ClockView:
    pairs = [
        MomentPair(
            frame=FrameAddress(id=pair.one, version=versions[pair.one]),
            other=FrameAddress(id=pair.other, version=versions[pair.other]),
            ahead_s=round(pair.ahead_s, 2),
        )
        for pair in (found.pairs if found else ())
        if pair.one in versions and pair.other in versions
    ]
    return ClockView(
        camera=camera,
        name=name,
        frames=count,
        ahead_s=said,
        suggested_s=found.ahead_s if found else None,
        beside=found.beside if found else None,
        pairs=pairs,
        considered=found.considered if found else 0,
    )


@router.post("/shoots/{shoot_id}/clocks", status_code=204, responses=answers(*SHOOT_PROBLEMS, *CHANGING))
def set_clock(desk: OnDesk, shoot: OfShoot, wish: ClockWish) -> None:
    """Says how far the clock of a camera is ahead; its frames move in the order of the shoot."""
    with desk.database.transaction() as connection:
        evidence.set_clock(connection, shoot.id, wish.camera, wish.ahead_s)
    desk.regroup(shoot.id)


@router.post(
    "/shoots/{shoot_id}/same-moment",
    status_code=204,
    responses=answers(*FRAME_PROBLEMS, *CHANGING, Code.NOT_OF_THIS_SHOOT, Code.NOT_NOW),
)
def set_clock_by_frames(desk: OnDesk, shoot: OfShoot, wish: SameMoment) -> None:
    """Sets the clock of a frame's camera by another camera's frame that shows the same moment."""
    demand_frames_of(desk, shoot, [wish.frame_id, wish.other_id])
    with desk.database.transaction() as connection:
        stamps = evidence.stamps(evidence.for_grouping(connection, shoot.id))
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
