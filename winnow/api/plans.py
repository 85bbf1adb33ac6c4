"""Plans over HTTP: make, show, apply, stop, reverse."""

from __future__ import annotations

from fastapi import APIRouter, HTTPException

from winnow.api import models
from winnow.api.desk import Desk, FolderRefusedError, OfShoot, OnDesk, now
from winnow.handoff.plan import PlanError, Wish, make_plan
from winnow.store import plans
from winnow.store.database import display
from winnow.store.plans import Plan, PlanState, StepState

router = APIRouter(prefix="/api", tags=["plans"])

STEPS_SHOWN = 300


@router.post("/shoots/{shoot_id}/plans", responses={422: {"model": models.Problem}})
def make(desk: OnDesk, shoot: OfShoot, wish: models.PlanWish) -> models.PlanView:
    """Works out a plan. Nothing is touched until it is applied."""
    try:
        target = str(desk.allowed(wish.target)) if wish.target else None
        with desk.database.transaction() as connection:
            plan_id = make_plan(
                connection,
                shoot.id,
                Wish(wish.kind, target, wish.with_marks, wish.keep_folders),
                now(),
            )
    except (PlanError, FolderRefusedError) as error:
        raise HTTPException(422, str(error)) from error
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
    plan = _plan(desk, plan_id)
    if plan.state not in (PlanState.MADE, PlanState.STOPPED):
        raise HTTPException(409, f"This plan is {plan.state}: make a new one.")
    if plan.summary.get("blocked") and plan.state is PlanState.MADE:
        raise HTTPException(409, plan.summary["blocked"])
    _start(desk, plan, backwards=False)
    return _view(desk, plan)


@router.post("/plans/{plan_id}/reverse")
def reverse(desk: OnDesk, plan_id: int) -> models.PlanView:
    plan = _plan(desk, plan_id)
    if plan.state not in (PlanState.APPLIED, *plans.STUCK):
        raise HTTPException(409, f"This plan is {plan.state}: there is nothing to take back.")
    _start(desk, plan, backwards=True)
    return _view(desk, plan)


@router.post("/plans/{plan_id}/stop")
def stop(desk: OnDesk, plan_id: int) -> models.PlanView:
    """Stops after the file at hand."""
    desk.runner.stop(plan_id)
    return _view(desk, _plan(desk, plan_id))


def _start(desk: Desk, plan: Plan, *, backwards: bool) -> None:
    if plan.id in desk.runner.running():
        raise HTTPException(409, "This plan is running already.")
    desk.runner.start(plan.id, backwards=backwards)


def _plan(desk: Desk, plan_id: int) -> Plan:
    plan = plans.get(desk.database.connection(), plan_id)
    if plan is None:
        raise HTTPException(404, "This plan is not known any more: make it again.")
    return plan


def _view(desk: Desk, plan: Plan) -> models.PlanView:
    connection = desk.database.connection()
    states = plans.count_states(connection, plan.id)
    steps = plans.steps(connection, plan.id)[:STEPS_SHOWN] if plan.state is PlanState.MADE else []
    return models.PlanView(
        id=plan.id,
        shoot_id=plan.shoot_id,
        kind=plan.kind,
        state=plan.state,
        target=display(plan.target) if plan.target else None,
        made_at=plan.made_at,
        ended_at=plan.ended_at,
        error=plan.error,
        done=states.get(StepState.DONE, 0),
        running=plan.id in desk.runner.running(),
        left=[
            models.Left(target=display(target), reason=reason)
            for target, reason in plans.left_behind(connection, plan.id)
        ],
        steps=[
            models.StepLine(
                action=step.action.value,
                source=display(step.source) if step.source else None,
                target=display(step.target),
            )
            for step in steps
        ],
        **plan.summary,
    )
