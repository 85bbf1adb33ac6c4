"""Plans run in the background, one at a time, with progress for whoever listens."""

from __future__ import annotations

import logging
import threading
import time
from concurrent.futures import Future, ThreadPoolExecutor

from winnow.handoff import apply as applying
from winnow.pipeline.engine import Engine
from winnow.store import plans, shoots
from winnow.store.plans import PlanState

log = logging.getLogger(__name__)

REPORT_EVERY_S = 0.2


class Runner:
    """Applies and reverses plans on a thread of its own."""

    def __init__(self, engine: Engine) -> None:
        self.engine = engine
        self._executor = ThreadPoolExecutor(max_workers=1, thread_name_prefix="plans")
        self._stops: dict[int, threading.Event] = {}

    def finish_interrupted(self) -> list[Future[PlanState]]:
        """Queues the plans that a crash cut off, each in the direction it was going."""
        found = plans.in_states(self.engine.database.connection(), plans.UNFINISHED)
        return [self.start(plan.id, backwards=plan.state is PlanState.REVERSING) for plan in found]

    def start(self, plan_id: int, *, backwards: bool = False) -> Future[PlanState]:
        """Queues a plan. The future gives the state it ended in."""
        self._stops[plan_id] = threading.Event()
        return self._executor.submit(self._run, plan_id, backwards)

    def running(self) -> set[int]:
        """Plans that run or wait to."""
        return set(self._stops)

    def stop(self, plan_id: int) -> None:
        """Asks a plan to stop after the step at hand."""
        if plan_id in self._stops:
            self._stops[plan_id].set()

    def close(self) -> None:
        for asked in list(self._stops.values()):
            asked.set()
        self._executor.shutdown(wait=True)

    def _run(self, plan_id: int, backwards: bool) -> PlanState:
        database, events = self.engine.database, self.engine.events
        plan = plans.get(database.connection(), plan_id)
        assert plan is not None
        last = 0.0

        def report(done: int, total: int) -> None:
            nonlocal last
            if time.monotonic() - last > REPORT_EVERY_S or done == total:
                last = time.monotonic()
                events.publish("plan", plan_id=plan_id, shoot_id=plan.shoot_id, done=done, total=total)

        run = applying.reverse if backwards else applying.apply
        try:
            with self.engine.files_lock:
                state = run(database, plan_id, report=report, stop=self._stops[plan_id].is_set)
        except applying.StoppedError as error:
            log.warning("plan %d: %s", plan_id, error)
            state = plan.state
        finally:
            self._stops.pop(plan_id, None)
        shoot = shoots.get(database.connection(), plan.shoot_id)
        events.publish(
            "plan-ended",
            plan_id=plan_id,
            shoot_id=plan.shoot_id,
            state=state,
            revision=shoot.revision if shoot else 0,
        )
        return state
