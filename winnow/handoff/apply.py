"""Plans run, forward or back, from wherever they stand.

Every step is recorded as begun before a file is touched and as done after. What a step that was begun has reached is
read off the disk, so that doing it again, or taking it back, is always safe. Whatever happens, a plan ends in a state
that it can be gone on with from.
"""

from __future__ import annotations

import errno
import logging
import os
import sqlite3
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from datetime import UTC, datetime

from winnow.handoff import copying, files
from winnow.handoff.backward import Backward
from winnow.handoff.forward import Forward
from winnow.handoff.reach import Anchor, StoppedError, demand
from winnow.handoff.rendering import HERE, Renderer
from winnow.pipeline.logs import Private
from winnow.store import plans
from winnow.store.database import Database, NoRoomError, display
from winnow.store.plans import Plan, PlanState, Step

log = logging.getLogger(__name__)

Report = Callable[[int, int], None]
"""Called with (steps done, steps in all)."""

CUT_OFF = "Winnow ended while this was under way. Go on with it, or roll it back."
_OUT_OF_REACH = (errno.ENOENT, errno.EIO, errno.ENODEV, errno.ENXIO, errno.ESTALE, errno.ENOTCONN)


def apply(
    database: Database,
    plan_id: int,
    *,
    report: Report = lambda done, total: None,
    stop: Callable[[], str | None] = lambda: None,
    render: Renderer = HERE,
) -> PlanState:
    """Applies a plan from wherever it stands. Returns APPLIED; or STOPPED with the plan's error set; or
    OUTDATED, with nothing touched, if what it was made from has changed.

    stop: asked before each step; a reason stops the plan between two steps. render: who makes JPEGs of a size.
    """
    return _run(database, plan_id, Forward(database, render), report, stop)


def reverse(
    database: Database,
    plan_id: int,
    *,
    report: Report = lambda done, total: None,
    stop: Callable[[], str | None] = lambda: None,
) -> PlanState:
    """Takes back what a plan has done, last step first. Returns REVERSED or REVERSAL_STOPPED.

    Files that were changed after the plan are left where they are, with the reason.
    """
    return _run(database, plan_id, Backward(database), report, stop)


def recover(database: Database) -> list[Plan]:
    """Plans that a crash cut off become stopped ones, for a person to decide on. Returns every plan that waits for
    that."""
    with database.spare_room(), database.transaction() as connection:
        for plan in plans.in_states(connection, plans.UNFINISHED):
            plans.set_state(connection, plan.id, plans.stopped_state(plan.state), error=CUT_OFF)
    return plans.in_states(database.connection(), plans.STUCK)


def _run(
    database: Database,
    plan_id: int,
    way: Forward | Backward,
    report: Report,
    stop: Callable[[], str | None],
) -> PlanState:
    plan = plans.get(database.connection(), plan_id)
    if plan is None:
        raise StoppedError("This plan is not known any more: make it again.")
    if plan.state not in way.starts_from:
        raise StoppedError(f"This plan is {plan.state} and cannot be {way.word}.")
    if plan.summary.get("blocked") and plan.state is PlanState.MADE:
        raise StoppedError(plan.summary["blocked"])
    # The little that is written about a plan must find room, also when the disk is full of its files.
    with database.spare_room():
        try:
            ended = _steps(database, plan, way, report, stop)
        except StoppedError as error:
            return _stopped(database, plan, way, str(error))
        except NoRoomError as error:
            return _stopped(database, plan, way, f"{error} Then go on, or roll back.")
        except sqlite3.Error as error:
            return _stopped(
                database, plan, way, f"The database of Winnow failed ({error}). Go on, or roll back."
            )
        except Exception as error:
            log.exception("plan %d", plan_id)
            what = f"{type(error).__name__}: {error}".encode("utf-8", "replace").decode()
            return _stopped(database, plan, way, f"It failed unexpectedly ({what}). Go on, or roll back.")
    return ended


def _steps(
    database: Database,
    plan: Plan,
    way: Forward | Backward,
    report: Report,
    stop: Callable[[], str | None],
) -> PlanState:
    connection = database.connection()
    every = plans.steps(connection, plan.id)
    differs = way.outdated(plan, every)
    if differs:
        with database.transaction() as connection:
            plans.set_differs(connection, plan, differs)
            plans.set_state(connection, plan.id, PlanState.OUTDATED)
        return PlanState.OUTDATED
    with database.transaction() as connection:
        plans.set_state(connection, plan.id, way.running)
    steps = way.ordered(every)
    with explained(plan):
        way.prepare(plan, steps)
    number = 0
    for portion in way.portions(plan, steps):
        report(number, len(steps))
        reason = stop()
        if reason:
            raise StoppedError(reason)
        with explained(plan, portion[0]):
            way.take(plan, portion)
        number += len(portion)
    with explained(plan):
        way.finish(plan, every)
    report(len(steps), len(steps))
    with database.transaction() as connection:
        now = datetime.now(UTC).isoformat(timespec="seconds")
        plans.set_state(connection, plan.id, way.ended, ended_at=now)
        plans.strip(connection, plan)
    return way.ended


def _stopped(database: Database, plan: Plan, way: Forward | Backward, reason: str) -> PlanState:
    try:
        with database.spare_room(), database.transaction() as connection:
            plans.set_state(connection, plan.id, way.stopped, error=reason)
    except (OSError, sqlite3.Error):
        # It stays 'applying' in the database and is taken for stopped all the same: it does not run.
        log.exception("plan %d: %s", plan.id, Private(reason, "stopped"))
    return way.stopped


@contextmanager
def explained(plan: Plan, step: Step | None = None) -> Iterator[None]:
    """Turns what the system says into what a person can do."""
    anchors = [Anchor(*anchor) for anchor in plan.anchors]
    place = display((step.source or step.target) if step else plan.target or "")
    try:
        yield
    except NoRoomError:
        raise
    except files.TargetTakenError as error:
        raise StoppedError(
            f"{display(str(error.filename))} appeared after the plan was made and is not overwritten. "
            "Move it away and go on, or roll back."
        ) from error
    except copying.VerificationError as error:
        raise StoppedError(
            f"{place}: {error.strerror}. The original is untouched. Check the disk, then go on or roll back."
        ) from error
    except OSError as error:
        demand(anchors)
        if error.errno in (errno.ENOSPC, errno.EDQUOT):
            where = display(os.path.dirname(error.filename or (step.target if step else plan.target or "")))
            message = f"The disk of {where} is full. Make room and go on, or roll back."
        elif error.errno in _OUT_OF_REACH:
            message = (
                f"{display(str(error.filename or place))} cannot be reached: is its disk connected? "
                "Connect it and go on, or roll back."
            )
        else:
            message = (
                f"{display(str(error.filename or place))}: {error.strerror}. "
                "Mend that and go on, or roll back."
            )
        raise StoppedError(message) from error
