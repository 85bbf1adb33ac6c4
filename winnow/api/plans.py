"""Plans over HTTP: make, show, apply, stop, reverse."""

from __future__ import annotations

from fastapi import APIRouter, HTTPException

from winnow.api import models
from winnow.api.desk import Desk, FolderRefusedError, OfShoot, OnDesk, now
from winnow.core.marks import Field
from winnow.handoff.apply import CUT_OFF
from winnow.handoff.draft import PlanError, Wish
from winnow.handoff.plan import Order, make_plan_apart
from winnow.handoff.runner import BusyError
from winnow.pipeline.workers import WorkerCrashedError
from winnow.store import plans
from winnow.store.database import display
from winnow.store.plans import Plan, PlanState, StepState

router = APIRouter(prefix="/api", tags=["plans"])

STEPS_SHOWN = 300


@router.post("/shoots/{shoot_id}/plans", responses={422: {"model": models.Problem}})
def make(desk: OnDesk, shoot: OfShoot, wish: models.PlanWish) -> models.PlanView:
    """Works out a plan. Nothing is touched until it is applied."""
    if desk.runner.busy(shoot.id):
        raise HTTPException(409, "A plan runs on this shoot: wait until it has ended, or stop it.")
    try:
        target = str(desk.allowed(wish.target)) if wish.target else None
        mine = tuple((own.frame_id, Field(own.field)) for own in wish.mine)
        wanted = Wish(wish.kind, target, wish.with_marks, wish.keep_folders, mine, wish.all_mine)
        order = Order(desk.database.path, shoot.id, wanted, now())
        plan_id = desk.engine.run_apart(make_plan_apart, order).result()
    except (PlanError, FolderRefusedError) as error:
        raise HTTPException(422, str(error)) from error
    except WorkerCrashedError as error:
        raise HTTPException(500, "Making the plan made the program crash: try it again.") from error
    return _view(desk, _plan(desk, plan_id))


@router.get("/shoots/{shoot_id}/plans")
def past_plans(desk: OnDesk, shoot: OfShoot) -> list[models.PlanView]:
    """What was done with the files of this shoot, newest first."""
    found = plans.of_shoot(desk.database.connection(), shoot.id)
    return [_view(desk, plan) for plan in found]


@router.get("/plans/{plan_id}")
def get_plan(desk: OnDesk, plan_id: int) -> models.PlanView:
    return _view(desk, _plan(desk, plan_id))


@router.post("/plans/{plan_id}/apply")
def apply(desk: OnDesk, plan_id: int) -> models.PlanView:
    """Applies a plan, or goes on with it. If what it was made from has changed, it becomes outdated."""
    plan = _plan(desk, plan_id)
    if _state(desk, plan) not in (PlanState.MADE, PlanState.STOPPED):
        raise HTTPException(409, f"This plan is {plan.state}: make a new one.")
    if plan.summary.get("blocked") and plan.state is PlanState.MADE:
        raise HTTPException(409, plan.summary["blocked"])
    return _start(desk, plan, backwards=False)


@router.post("/plans/{plan_id}/reverse")
def reverse(desk: OnDesk, plan_id: int) -> models.PlanView:
    """Takes back what a plan has done so far."""
    plan = _plan(desk, plan_id)
    if _state(desk, plan) not in (PlanState.APPLIED, *plans.STUCK):
        raise HTTPException(409, f"This plan is {plan.state}: there is nothing to take back.")
    return _start(desk, plan, backwards=True)


@router.post("/plans/{plan_id}/stop")
def stop(desk: OnDesk, plan_id: int) -> models.PlanView:
    """Stops after the file at hand."""
    desk.runner.stop(plan_id)
    return _view(desk, _plan(desk, plan_id))


def _start(desk: Desk, plan: Plan, *, backwards: bool) -> models.PlanView:
    try:
        desk.runner.start(plan.id, backwards=backwards)
    except BusyError as error:
        raise HTTPException(409, str(error)) from error
    return _view(desk, plan)


def _state(desk: Desk, plan: Plan) -> PlanState:
    """What a plan is: one that is under way in the database but does not run is stopped."""
    return plan.state if plan.id in desk.runner.running() else plans.stopped_state(plan.state)


def _plan(desk: Desk, plan_id: int) -> Plan:
    plan = plans.get(desk.database.connection(), plan_id)
    if plan is None:
        raise HTTPException(404, "This plan is not known any more: make it again.")
    return plan


def _view(desk: Desk, plan: Plan) -> models.PlanView:
    connection = desk.database.connection()
    states = plans.count_states(connection, plan.id)
    steps = plans.first_steps(connection, plan.id, STEPS_SHOWN) if plan.state is PlanState.MADE else []
    running = plan.id in desk.runner.running()
    state = _state(desk, plan)
    return models.PlanView(
        id=plan.id,
        shoot_id=plan.shoot_id,
        kind=plan.kind,
        state=state,
        target=display(plan.target) if plan.target else None,
        made_at=plan.made_at,
        ended_at=plan.ended_at,
        error=plan.error if state is plan.state else CUT_OFF,
        done=states.get(StepState.DONE, 0) + states.get(StepState.COPIED, 0),
        running=running,
        left=_said(plans.left_behind(connection, plan.id)),
        remarks=_said(plans.remarks(connection, plan.id)),
        steps=[
            models.StepLine(
                action=step.action.value,
                source=display(step.source) if step.source else None,
                target=display(step.target),
            )
            for step in steps
        ],
        wish=_wish(plan),
        **plan.summary,
    )


def _said(reasons: list[tuple[str, str]]) -> list[models.Left]:
    return [models.Left(target=display(target), reason=reason) for target, reason in reasons]


def _wish(plan: Plan) -> models.PlanWish | None:
    if not plan.wish:
        return None
    mine = [{"frame_id": frame_id, "field": name} for frame_id, name in plan.wish["mine"]]
    return models.PlanWish.model_validate(plan.wish | {"mine": mine})
