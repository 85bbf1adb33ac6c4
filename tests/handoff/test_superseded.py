"""Plans whose files another plan has moved since."""

from __future__ import annotations

from tests.handoff.test_plans import Shoot, contents, shoot  # noqa: F401
from winnow.core.file_names import Naming
from winnow.store import plans
from winnow.store.plans import PlanKind, PlanState


def superseded(shoot: Shoot, plan_id: int) -> bool:  # noqa: F811
    return plans.is_superseded(shoot.desk.database.connection(), shoot.read(plan_id))


def test_rejects_that_another_plan_brought_back_are_not_brought_back_again(shoot: Shoot) -> None:  # noqa: F811
    """Undoing the first plan finds nothing left to do, says so for each file, and ends."""
    before = contents(shoot.folder)
    first = shoot.plan(PlanKind.HOLD_REJECTS)
    shoot.apply(first)
    assert not superseded(shoot, first)
    second = shoot.plan(PlanKind.BRING_BACK)
    assert shoot.apply(second) is PlanState.APPLIED
    assert contents(shoot.folder) == before
    assert superseded(shoot, first) and not superseded(shoot, second)
    assert shoot.reverse(first) is PlanState.REVERSED
    assert contents(shoot.folder) == before
    left = plans.left_behind(shoot.desk.database.connection(), first)
    assert len(left) == 2 and all("moved by another plan" in reason for _, reason in left)


def test_what_is_still_where_a_plan_left_it_is_undone_and_the_rest_is_named(shoot: Shoot) -> None:  # noqa: F811
    """Sidecars, of which some got another name with their frame since."""
    written = shoot.plan(PlanKind.WRITE_SIDECARS)
    shoot.apply(written)
    count = plans.count_states(shoot.desk.database.connection(), written)["done"]
    shoot.apply(shoot.plan(PlanKind.RENAME, naming=Naming("kiln_{counter:3}"), frames=tuple(shoot.ids[:1])))
    assert not superseded(shoot, written)
    assert shoot.reverse(written) is PlanState.REVERSED
    states = plans.count_states(shoot.desk.database.connection(), written)
    assert (states["left"], states["reversed"]) == (1, count - 1)
