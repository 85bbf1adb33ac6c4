"""Plans run in the background, one at a time on a shoot, with progress for whoever listens."""

from __future__ import annotations

import logging
import threading
import time
from concurrent.futures import Future, ThreadPoolExecutor
from dataclasses import dataclass
from functools import partial

from winnow.handoff import apply as applying
from winnow.handoff.apply import CUT_OFF
from winnow.handoff.reach import StoppedError
from winnow.handoff.rendering import Renderer, render_one
from winnow.pipeline.engine import Engine
from winnow.pipeline.logs import Private
from winnow.store import plans, shoots
from winnow.store.plans import Plan, PlanKind, PlanState

log = logging.getLogger(__name__)

REPORT_EVERY_S = 0.2
LIST_EVERY_S = 3.0
"""So often what has come in is listed, to be worked with while the rest comes."""
AT_ONCE = 4
"""Plans of as many shoots run beside each other."""

BY_HAND = "Stopped by hand. Go on with it, or roll it back."


class BusyError(RuntimeError):
    """Another plan runs on the shoot; the message is meant for a person."""


@dataclass(slots=True)
class _Running:
    plan: Plan
    stop: str | None = None
    """Why it is to stop after the step at hand."""


class Runner:
    """Applies and reverses plans on threads of its own."""

    def __init__(self, engine: Engine) -> None:
        self.engine = engine
        self._executor = ThreadPoolExecutor(max_workers=AT_ONCE, thread_name_prefix="plans")
        self._running: dict[int, _Running] = {}
        self._lock = threading.Lock()
        self._renderer = Renderer(lambda task: engine.run_apart(render_one, task), engine.workers)

    def recover(self) -> list[Plan]:
        """Plans that were cut off when Winnow ended wait for a person; returns all that wait."""
        return applying.recover(self.engine.database)

    def start(self, plan_id: int, *, backwards: bool = False) -> Future[PlanState]:
        """Starts a plan; the future gives the state it ended in. Raises BusyError."""
        plan = plans.get(self.engine.database.connection(), plan_id)
        if plan is None:
            raise BusyError("This plan is not known any more: make it again.")
        with self._lock:
            if any(running.plan.shoot_id == plan.shoot_id for running in self._running.values()):
                raise BusyError("A plan runs on this shoot: wait until it has ended, or stop it.")
            running = self._running[plan_id] = _Running(plan)
        return self._executor.submit(self._run, running, backwards)

    def running(self) -> set[int]:
        """Plans that run or wait for a listing to end."""
        with self._lock:
            return set(self._running)

    def busy(self, shoot_id: int) -> bool:
        """Whether a plan runs on a shoot."""
        with self._lock:
            return any(running.plan.shoot_id == shoot_id for running in self._running.values())

    def stop(self, plan_id: int, reason: str = BY_HAND) -> None:
        """Asks a plan to stop after the step at hand."""
        with self._lock:
            if plan_id in self._running:
                self._running[plan_id].stop = reason

    def close(self) -> None:
        for plan_id in self.running():
            self.stop(plan_id, CUT_OFF)
        self._executor.shutdown(wait=True)

    def _run(self, running: _Running, backwards: bool) -> PlanState:
        plan, database, events = running.plan, self.engine.database, self.engine.events
        last = listed = 0.0

        def report(done: int, total: int) -> None:
            nonlocal last, listed
            if time.monotonic() - last > REPORT_EVERY_S or done == total:
                last = time.monotonic()
                events.publish("plan", plan_id=plan.id, shoot_id=plan.shoot_id, done=done, total=total)
            if plan.kind is PlanKind.IMPORT and done and time.monotonic() - listed > LIST_EVERY_S:
                listed = time.monotonic()
                self.engine.open(plan.shoot_id, first=False)

        run = applying.reverse if backwards else partial(applying.apply, render=self._renderer)
        state = plan.state
        try:
            shoot = shoots.get(database.connection(), plan.shoot_id)
            places = [path for _, path in shoot.folders] if shoot else []
            # What comes in is listed while it comes: nobody waits for an import.
            held = [] if plan.kind is PlanKind.IMPORT and not backwards else [*places, *plan.targets]
            with self.engine.folders.holding(held):
                state = run(database, plan.id, report=report, stop=lambda: running.stop)
                log.info("plan %d, %s: %s", plan.id, plan.kind, state)
        except StoppedError as error:
            log.warning("plan %d: %s", plan.id, Private(str(error), "stopped"))
        except Exception:
            # It stays as it is in the database and, as it does not run, counts as stopped.
            log.exception("plan %d", plan.id)
        finally:
            with self._lock:
                self._running.pop(plan.id, None)
        if plan.kind is PlanKind.IMPORT:
            # Once more, if it is being listed just now. Marks that came along with the pictures are read with them.
            self.engine.open(plan.shoot_id, asked=True, first=False)
        elif backwards or plan.kind is PlanKind.BRING_BACK:
            # Frames that are in the shoot again may never have been prepared.
            self.engine.open(plan.shoot_id, quiet=True)
        shoot = shoots.get(database.connection(), plan.shoot_id)
        events.publish(
            "plan-ended",
            plan_id=plan.id,
            shoot_id=plan.shoot_id,
            state=state,
            revision=shoot.revision if shoot else 0,
        )
        return state
