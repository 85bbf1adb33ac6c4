"""Plans over HTTP: make, show, apply, stop, reverse."""

from __future__ import annotations

from collections import Counter
from dataclasses import replace

from winnow.api.desk import (
    PLAN_PROBLEMS,
    SHOOT_PROBLEMS,
    Desk,
    FolderRefusedError,
    OfPlan,
    OfShoot,
    OnDesk,
    demand_frames_of,
    now,
)
from winnow.api.idempotency import Idempotency, InIdempotency
from winnow.api.models.base import moment
from winnow.api.models.plans import (
    HeldFrame,
    HeldView,
    HoldingFolder,
    Left,
    NamesView,
    NamesWish,
    NewName,
    PlanView,
    PlanWish,
    SizedWish,
    StepLine,
)
from winnow.api.problems import CHANGING, Code, ProblemError, answers
from winnow.api.routes import routes
from winnow.core.file_names import free_words
from winnow.core.marks import Field
from winnow.core.pairing import fold
from winnow.formats.sized import Sized
from winnow.handoff.apply import CUT_OFF
from winnow.handoff.chosen import frames_of_plan
from winnow.handoff.draft import Wish
from winnow.handoff.holding import holdings
from winnow.handoff.kinds import folders_of, new_names
from winnow.handoff.plan import Order, make_plan_apart
from winnow.handoff.runner import BusyError
from winnow.pipeline.engine import EngineStoppedError
from winnow.pipeline.workers import WorkerCrashedError
from winnow.store import frame_files, frames, plans, shoots
from winnow.store.database import display
from winnow.store.plans import Plan, PlanKind, PlanState, StepState
from winnow.store.readable import readable

router = routes("/api", "plans")

STEPS_SHOWN = 300
NAMES_SHOWN = 200


CARRYING_OUT = answers(*PLAN_PROBLEMS, *CHANGING, Code.NOT_NOW, Code.BUSY)


MAKING = answers(
    *SHOOT_PROBLEMS,
    *CHANGING,
    Code.FRAME_UNKNOWN,
    Code.PLAN_UNKNOWN,
    Code.NOT_OF_THIS_SHOOT,
    Code.BUSY,
    Code.CANNOT_BE_DONE,
    Code.FOLDER_REFUSED,
    Code.FAILED,
    Code.ENDING,
)


@router.post("/shoots/{shoot_id}/plans", responses=MAKING)
def make_plan(desk: OnDesk, shoot: OfShoot, wish: PlanWish, idempotency: InIdempotency) -> PlanView:
    """Works out a plan. Nothing is touched until it is applied."""
    if wish.mine:
        demand_frames_of(desk, shoot, [own.frame_id for own in wish.mine])
    try:
        wanted = wish_of(desk, wish)
    except FolderRefusedError as error:
        raise ProblemError(Code.FOLDER_REFUSED, str(error)) from error
    except ValueError as error:
        raise ProblemError(Code.CANNOT_BE_DONE, str(error)) from error
    return make_for(desk, shoot.id, wanted, idempotency)


def wish_of(desk: Desk, wish: PlanWish) -> Wish:
    """What was asked for, with folders that may be used. Raises FolderRefusedError, ValueError."""
    targets = [str(desk.allowed(path)) if path else None for path in (wish.target, wish.second)]
    return Wish(
        wish.kind,
        targets[0],
        wish.with_marks,
        wish.keep_folders,
        tuple((own.frame_id, Field(own.field)) for own in wish.mine),
        wish.all_mine,
        wish.show.strip(),
        wish.into,
        wish.only,
        wish.naming.naming() if wish.naming else None,
        targets[1],
        str(desk.source(wish.source)) if wish.source else None,
        tuple(wish.frames),
        Sized(**wish.sized.model_dump()) if wish.sized else None,
    )


def make_for(desk: Desk, shoot_id: int, wish: Wish, idempotency: Idempotency) -> PlanView:
    """The plan for a wish, or the one that the same request made before. Raises ProblemError."""
    earlier = idempotency.earlier(desk.database.connection())
    if earlier is not None:
        return _again(desk, earlier)
    if desk.runner.busy(shoot_id):
        raise ProblemError(Code.BUSY, "A plan runs on this shoot: wait until it has ended, or stop it.")
    try:
        order = Order(desk.database.path, shoot_id, wish, now(), tuple(desk.slots.extra), idempotency.request)
        plan_id = desk.engine.run_apart(make_plan_apart, order).result()
    except ValueError as error:  # PlanError too: what is wished for cannot be
        raise ProblemError(Code.CANNOT_BE_DONE, str(error)) from error
    except WorkerCrashedError as error:
        raise ProblemError(Code.FAILED, "Making the plan made the program crash: try it again.") from error
    except EngineStoppedError as error:
        raise ProblemError(Code.ENDING, "Winnow is ending.") from error
    return _again(desk, plan_id)


@router.post("/shoots/{shoot_id}/names", responses=answers(*SHOOT_PROBLEMS, *CHANGING, Code.CANNOT_BE_DONE))
def preview_names(desk: OnDesk, shoot: OfShoot, wish: NamesWish) -> NamesView:
    """What files would be called by a pattern. Nothing is touched."""
    connection = desk.database.connection()
    words = free_words(wish.naming.pattern)
    try:
        kind = PlanKind.RENAME if wish.in_place else PlanKind.COPY_KEEPERS
        chosen = frames_of_plan(
            connection, shoot.id, Wish(kind, show=wish.show.strip(), frames=tuple(wish.frames))
        )
        new = new_names(connection, shoot, chosen, wish.naming.naming())
        folders = folders_of(connection, chosen, wish.into)
    except ValueError as error:
        return NamesView(names=[], frames=0, clashes=0, words=words, missing=str(error))
    places = {i: fold(f"{folders.get(i, '')}/{name}") for i, name in new.items()}
    counted = Counter(places.values())
    old = frames.names(connection, chosen[:NAMES_SHOWN])
    listed = [
        NewName(before=before, after=new[i], clash=counted[places[i]] > 1)
        for i, before in zip(chosen, old, strict=False)
    ]
    clashes = sum(n for n in counted.values() if n > 1)
    return NamesView(names=listed, frames=len(chosen), clashes=clashes, words=words, missing=None)


@router.get("/shoots/{shoot_id}/plans", responses=answers(*SHOOT_PROBLEMS))
def list_plans(desk: OnDesk, shoot: OfShoot) -> list[PlanView]:
    """What was done with the files of this shoot, newest first."""
    connection = desk.database.connection()
    begun = desk.runner.running()
    found = plans.of_shoot(connection, shoot.id)
    # One that was just started is still held against the disk, and not under way in the database yet.
    known = {plan.id for plan in found}
    others = (plans.get(connection, plan_id) for plan_id in begun - known)
    found += [plan for plan in others if plan is not None and plan.shoot_id == shoot.id]
    return [_view(desk, plan) for plan in sorted(found, key=lambda plan: -plan.id)]


@router.get("/shoots/{shoot_id}/held", responses=answers(*SHOOT_PROBLEMS))
def list_held(desk: OnDesk, shoot: OfShoot) -> HeldView:
    """What waits in the holding folders of a shoot."""
    connection = desk.database.connection()
    sizes: Counter[int] = Counter()
    for frame_id, _, size in frame_files.held(connection, shoot.id):
        sizes[frame_id] += size
    addresses = frames.addresses(connection, sizes)
    names = frames.names(connection, list(sizes))
    return HeldView(
        folders=[
            HoldingFolder(
                path=display(one.path),
                frames=one.frames,
                bytes=one.bytes,
                since=moment(one.since) if one.since else None,
            )
            for one in holdings(connection, shoot.id)
        ],
        frames=[
            HeldFrame(id=i, version=addresses[i], name=name, bytes=sizes[i])
            for i, name in zip(sizes, names, strict=True)
        ],
    )


@router.get("/plans/{plan_id}", responses=answers(*PLAN_PROBLEMS))
def get_plan(desk: OnDesk, plan: OfPlan) -> PlanView:
    """A plan with what it would do, or what has become of it."""
    return _view(desk, plan)


@router.post("/plans/{plan_id}/apply", responses=CARRYING_OUT)
def apply_plan(desk: OnDesk, plan: OfPlan, idempotency: InIdempotency) -> PlanView:
    """Applies a plan, or goes on with it. If what it was made from has changed, it becomes outdated."""
    if idempotency.earlier(desk.database.connection()) is not None:
        return _view(desk, plan)
    plan, _ = _as_now(desk, plan)
    if plan.state not in (PlanState.MADE, PlanState.STOPPED):
        raise ProblemError(Code.NOT_NOW, f"This plan is {plan.state}: make a new one.")
    outside = next((target for target in plan.targets if not desk.is_inside(target)), None)
    if outside:
        raise ProblemError(
            Code.NOT_NOW,
            f"{display(outside)} leads out of the folders Winnow may open by now: make a new plan.",
        )
    if plan.summary.get("blocked") and plan.state is PlanState.MADE:
        raise ProblemError(Code.NOT_NOW, plan.summary["blocked"])
    if plan.kind is PlanKind.IMPORT:
        with desk.database.transaction() as connection:
            shoots.show(connection, plan.shoot_id)
    return _start(desk, plan, idempotency, backwards=False)


@router.post("/plans/{plan_id}/reverse", responses=CARRYING_OUT)
def reverse_plan(desk: OnDesk, plan: OfPlan, idempotency: InIdempotency) -> PlanView:
    """Takes back what a plan has done so far."""
    if idempotency.earlier(desk.database.connection()) is not None:
        return _view(desk, plan)
    if plan.kind in plans.FINAL and plan.state is PlanState.APPLIED:
        raise ProblemError(Code.NOT_NOW, "What is in the system's bin is brought back there, not here.")
    plan, _ = _as_now(desk, plan)
    if plan.state not in (PlanState.APPLIED, *plans.STUCK):
        raise ProblemError(Code.NOT_NOW, f"This plan is {plan.state}: there is nothing to undo.")
    if plan.state is PlanState.APPLIED and not _reversible(desk, plan):
        raise ProblemError(Code.NOT_NOW, "Other plans have moved its files since: undo those first.")
    return _start(desk, plan, idempotency, backwards=True)


@router.post("/plans/{plan_id}/stop", responses=answers(*PLAN_PROBLEMS))
def stop_plan(desk: OnDesk, plan: OfPlan) -> PlanView:
    """Stops after the file at hand."""
    desk.runner.stop(plan.id)
    return _again(desk, plan.id)


def _start(desk: Desk, plan: Plan, idempotency: Idempotency, *, backwards: bool) -> PlanView:
    try:
        desk.runner.start(plan.id, backwards=backwards)
    except BusyError as error:
        raise ProblemError(Code.BUSY, str(error)) from error
    _done(desk, idempotency, plan.id)
    return _view(desk, plan)


def _done(desk: Desk, idempotency: Idempotency, plan_id: int) -> None:
    # A plan runs in transactions of its own. Cut off in between, the same request resumes a stopped plan.
    with desk.database.transaction() as connection:
        idempotency.complete(connection, plan_id)


def _as_now(desk: Desk, plan: Plan) -> tuple[Plan, bool]:
    """Return a plan, and whether it runs. One that is under way in the database but does not run is stopped.

    A plan ends in the database first and leaves the list of running ones afterwards. So it was cut off only if it is
    still under way when it is read again after it was not on that list, and is not on it again.
    """
    if plan.id in desk.runner.running():
        return plan, True
    again = plans.get(desk.database.connection(), plan.id) or plan
    if again.state not in plans.UNFINISHED or plan.id in desk.runner.running():
        return again, plan.id in desk.runner.running()
    return replace(again, state=plans.stopped_state(again.state), error=CUT_OFF), False


def _again(desk: Desk, plan_id: int) -> PlanView:
    plan = plans.get(desk.database.connection(), plan_id)
    if plan is None:
        raise ProblemError(Code.PLAN_UNKNOWN, "This plan is not known any more: make it again.")
    return _view(desk, plan)


def _view(desk: Desk, plan: Plan) -> PlanView:
    connection = desk.database.connection()
    plan, running = _as_now(desk, plan)
    states = plans.count_states(connection, plan.id)
    steps = plans.first_steps(connection, plan.id, STEPS_SHOWN) if plan.state is PlanState.MADE else []
    return PlanView(
        id=plan.id,
        shoot_id=plan.shoot_id,
        kind=plan.kind,
        state=plan.state,
        target=display(plan.target) if plan.target else None,
        second=display(plan.targets[1]) if len(plan.targets) > 1 else None,
        final=plan.kind in plans.FINAL,
        skipped=states.get(StepState.SKIPPED, 0),
        made_at=moment(plan.made_at),
        ended_at=moment(plan.ended_at) if plan.ended_at else None,
        error=plan.error,
        reversible=_reversible(desk, plan),
        undone=states.get(StepState.REVERSED, 0),
        done=states.get(StepState.DONE, 0) + states.get(StepState.COPIED, 0),
        running=running,
        left=_said(plans.left_behind(connection, plan.id)),
        remarks=_said(plans.remarks(connection, plan.id)),
        steps=[
            StepLine(
                action=step.action.value,
                source=display(step.source) if step.source else None,
                target=display(step.target),
            )
            for step in steps
        ],
        wish=_wish(plan),
        **{**plan.summary, "named": plan.named},
    )


def _reversible(desk: Desk, plan: Plan) -> bool:
    """Whether an applied plan can be undone: some of its files are where it has left them."""
    connection = desk.database.connection()
    return (
        plan.state is PlanState.APPLIED
        and plan.kind not in plans.FINAL
        and not plans.is_superseded(connection, plan)
    )


def _said(reasons: list[tuple[str, str]]) -> list[Left]:
    return [Left(target=display(target), reason=reason) for target, reason in reasons]


def _wish(plan: Plan) -> PlanWish | None:
    if not plan.wish:
        return None
    mine = [{"frame_id": frame_id, "field": name} for frame_id, name in plan.wish["mine"]]
    # Which frames were named matters as long as the plan may be made anew: there may be thousands.
    anew = plan.state in (PlanState.MADE, PlanState.OUTDATED)
    named = plan.wish.get("frames", []) if anew else []
    held = {name: value for name, value in plan.wish.items() if name in PlanWish.model_fields}
    if held.get("sized"):
        held["sized"] = {name: v for name, v in held["sized"].items() if name in SizedWish.model_fields}
    read = readable([held | {"mine": mine, "frames": named}], PlanWish.model_validate)
    return read[0] if read else None
