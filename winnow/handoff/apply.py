"""Plans applied, resumed after any interruption, and reversed.

Every step is recorded as begun before a file is touched and as done after. What a step that was
begun has reached is read off the disk, so that doing it again is always safe.
"""

from __future__ import annotations

import errno
import json
import os
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from datetime import UTC, datetime
from pathlib import Path

from winnow.handoff import files
from winnow.pipeline.scan import HOLDING_MARKER
from winnow.store import plans
from winnow.store.database import Database, display
from winnow.store.plans import Action, Plan, PlanKind, PlanState, Step, StepState

Report = Callable[[int, int], None]
"""Called with (steps done, steps in all)."""

_PLACES = {
    PlanKind.MOVE_KEEPERS: "moved",
    PlanKind.HOLD_REJECTS: "held",
    PlanKind.BRING_BACK: "shoot",
}


class StoppedError(Exception):
    """The plan stopped cleanly; the message says why and what can be done."""


class _LeftError(Exception):
    """This step cannot be done, the others can; the message says why."""


def apply(
    database: Database,
    plan_id: int,
    *,
    report: Report = lambda done, total: None,
    stop: Callable[[], bool] = lambda: False,
) -> PlanState:
    """Applies a plan from wherever it stands. Returns APPLIED, or STOPPED with the plan's error set.

    stop: asked before each step; answering True stops the plan between two steps.
    """
    return _run(database, plan_id, _Forward(database), report, stop)


def reverse(
    database: Database,
    plan_id: int,
    *,
    report: Report = lambda done, total: None,
    stop: Callable[[], bool] = lambda: False,
) -> PlanState:
    """Takes back what a plan has done, last step first. Returns REVERSED or REVERSAL_STOPPED.

    Files that were changed after the plan are left where they are, with the reason.
    """
    return _run(database, plan_id, _Backward(database), report, stop)


def resume_unfinished(database: Database, plan: Plan) -> PlanState:
    """Finishes what a crash interrupted, in the direction it was going."""
    if plan.state is PlanState.REVERSING:
        return reverse(database, plan.id)
    return apply(database, plan.id)


def _run(
    database: Database,
    plan_id: int,
    way: _Forward | _Backward,
    report: Report,
    stop: Callable[[], bool],
) -> PlanState:
    plan = plans.get(database.connection(), plan_id)
    if plan is None:
        raise StoppedError("This plan is not known any more: make it again.")
    if plan.state not in way.starts_from:
        raise StoppedError(f"This plan is {plan.state} and cannot be {way.word}.")
    if plan.summary.get("blocked") and plan.state is PlanState.MADE:
        raise StoppedError(plan.summary["blocked"])
    with database.transaction() as connection:
        plans.set_state(connection, plan_id, way.running)
    steps = way.ordered(plans.steps(database.connection(), plan_id))
    try:
        way.prepare(plan)
        for number, step in enumerate(steps):
            report(number, len(steps))
            if stop():
                raise StoppedError("Stopped by hand. Go on with it, or roll it back.")
            with _explained(step):
                way.take(plan, step)
        way.finish(plan, steps)
    except StoppedError as error:
        with database.transaction() as connection:
            plans.set_state(connection, plan_id, way.stopped, error=str(error))
        return way.stopped
    report(len(steps), len(steps))
    with database.transaction() as connection:
        now = datetime.now(UTC).isoformat(timespec="seconds")
        plans.set_state(connection, plan_id, way.ended, ended_at=now)
    return way.ended


@contextmanager
def _explained(step: Step) -> Iterator[None]:
    """Turns what the system says into what a person can do."""
    try:
        yield
    except files.TargetTakenError as error:
        raise StoppedError(
            f"{display(str(error.filename))} appeared after the plan was made and is not overwritten. "
            "Move it away and go on, or roll back."
        ) from error
    except files.VerificationError as error:
        raise StoppedError(
            f"{display(step.source or step.target)}: {error.strerror}. The original is untouched. "
            "Check the disk, then go on or roll back."
        ) from error
    except OSError as error:
        if error.errno in (errno.ENOSPC, errno.EDQUOT):
            message = f"The disk of {display(step.target)} is full. Make room and go on, or roll back."
        elif error.errno == errno.ENOENT:
            message = (
                f"{display(str(error.filename))} cannot be reached: is its disk connected? "
                "Connect it and go on, or roll back."
            )
        else:
            message = (
                f"{display(str(error.filename or step.target))}: {error.strerror}. "
                "Mend that and go on, or roll back."
            )
        raise StoppedError(message) from error


class _Forward:
    """Doing the steps."""

    word = "applied"
    starts_from = (PlanState.MADE, PlanState.APPLYING, PlanState.STOPPED)
    running, stopped, ended = PlanState.APPLYING, PlanState.STOPPED, PlanState.APPLIED

    def __init__(self, database: Database) -> None:
        self.database = database

    def ordered(self, steps: list[Step]) -> list[Step]:
        return [step for step in steps if step.state in (StepState.WAITING, StepState.BEGUN)]

    def prepare(self, plan: Plan) -> None:
        if plan.kind is not PlanKind.HOLD_REJECTS or plan.target is None:
            return
        marker = Path(plan.target) / HOLDING_MARKER
        try:
            marker.parent.mkdir(parents=True, exist_ok=True)
            if not marker.exists():
                text = {"what": "Rejects that Winnow holds; bring them back there.", "plan": plan.id}
                marker.write_text(json.dumps(text) + "\n")
        except OSError as error:
            raise StoppedError(
                f"The holding folder {display(plan.target)} cannot be made ({error.strerror}). "
                "Mend that and go on, or roll back."
            ) from error

    def take(self, plan: Plan, step: Step) -> bool:
        """Does one step; False if it was left."""
        try:
            digest = self._do(step)
        except _LeftError as error:
            self._set(step, StepState.LEFT, reason=str(error))
            return False
        with self.database.transaction() as connection:
            plans.set_step(connection, step, StepState.DONE, digest=digest)
            if step.action is Action.MOVE:
                assert step.source is not None
                plans.file_moved(
                    connection,
                    plan.shoot_id,
                    step.frame_id,
                    step.source,
                    step.target,
                    _PLACES[plan.kind],
                )
            elif step.action is Action.WRITE and plan.kind is not PlanKind.COPY_KEEPERS:
                stat = os.stat(step.target)
                plans.sidecar_written(connection, step.frame_id, step.target, stat.st_size, stat.st_mtime_ns)
        return True

    def _do(self, step: Step) -> str | None:
        begun = step.state is StepState.BEGUN
        if not begun:
            if os.path.lexists(step.target) and not self._may_replace(step):
                raise files.TargetTakenError(errno.EEXIST, "the name is taken", step.target)
            self._set(step, StepState.BEGUN)
        part = part_name(step)
        if begun:
            Path(part).unlink(missing_ok=True)
            if step.action is not Action.WRITE and files.is_reservation(step.target):
                os.unlink(step.target)
        match step.action:
            case Action.COPY:
                assert step.source is not None
                if not os.path.exists(step.source):
                    raise _LeftError(_gone(step.source))
                if begun and os.path.lexists(step.target):
                    digest = files.digest_of(step.target)
                    if digest == files.digest_of(step.source):
                        return digest
                return files.copy(step.source, step.target, part)
            case Action.MOVE:
                assert step.source is not None
                self._move(step, step.source, part, begun)
                return None
            case Action.WRITE:
                return self._write(step, part)

    def _move(self, step: Step, source: str, part: str, begun: bool) -> None:
        if begun and os.path.lexists(step.target):
            if not os.path.lexists(source):
                return
            same = os.path.samefile(source, step.target)
            if same or files.digest_of(source) == files.digest_of(step.target):
                os.unlink(source)
                return
        if not os.path.lexists(source):
            raise _LeftError(_gone(source))
        files.move(source, step.target, part)

    def _write(self, step: Step, part: str) -> str:
        assert step.content is not None
        now = _bytes_at(step.target)
        if now == step.content:
            return files.digest_of(step.target)
        if now != step.previous:
            raise _LeftError(
                f"{display(step.target)} was changed after the plan was made: "
                "make the plan again to see both."
            )
        return files.write(step.content, step.target, part, replacing=now is not None)

    def _may_replace(self, step: Step) -> bool:
        return step.action is Action.WRITE

    def _set(self, step: Step, state: StepState, reason: str | None = None) -> None:
        with self.database.transaction() as connection:
            plans.set_step(connection, step, state, reason=reason)

    def finish(self, plan: Plan, steps: list[Step]) -> None:
        if plan.kind is PlanKind.BRING_BACK:
            for step in plans.steps(self.database.connection(), plan.id):
                if step.source:
                    _remove_empty(os.path.dirname(step.source), holding=True)


class _Backward:
    """Taking the steps back."""

    word = "reversed"
    starts_from = (
        PlanState.APPLIED,
        PlanState.STOPPED,
        PlanState.REVERSING,
        PlanState.REVERSAL_STOPPED,
    )
    running, stopped, ended = (
        PlanState.REVERSING,
        PlanState.REVERSAL_STOPPED,
        PlanState.REVERSED,
    )

    def __init__(self, database: Database) -> None:
        self.database = database

    def ordered(self, steps: list[Step]) -> list[Step]:
        touched = (StepState.BEGUN, StepState.DONE, StepState.REVERSING)
        return [step for step in reversed(steps) if step.state in touched]

    def prepare(self, plan: Plan) -> None:
        pass

    def take(self, plan: Plan, step: Step) -> None:
        # Cut off half way: bring it to a known state first, then take that back.
        if step.state is StepState.BEGUN and not _Forward(self.database).take(plan, step):
            return
        with self.database.transaction() as connection:
            plans.set_step(connection, step, StepState.REVERSING)
        try:
            self._undo(step)
        except _LeftError as error:
            with self.database.transaction() as connection:
                plans.set_step(connection, step, StepState.LEFT, reason=str(error))
            return
        with self.database.transaction() as connection:
            plans.set_step(connection, step, StepState.REVERSED)
            if step.action is Action.MOVE:
                assert step.source is not None
                place = "held" if plan.kind is PlanKind.BRING_BACK else "shoot"
                plans.file_moved(connection, plan.shoot_id, step.frame_id, step.target, step.source, place)
            elif step.action is Action.WRITE and plan.kind is not PlanKind.COPY_KEEPERS:
                if step.previous is None:
                    plans.sidecar_removed(connection, step.frame_id, step.target)
                else:
                    stat = os.stat(step.target)
                    plans.sidecar_written(
                        connection, step.frame_id, step.target, stat.st_size, stat.st_mtime_ns
                    )

    def _undo(self, step: Step) -> None:
        part = part_name(step)
        Path(part).unlink(missing_ok=True)
        match step.action:
            case Action.COPY:
                if not os.path.lexists(step.target):
                    return
                if files.digest_of(step.target) != step.digest:
                    raise _LeftError(_changed(step.target))
                os.unlink(step.target)
            case Action.MOVE:
                assert step.source is not None
                if os.path.lexists(step.source) and not os.path.lexists(step.target):
                    return
                if not os.path.lexists(step.target):
                    raise _LeftError(_gone(step.target))
                self._move_back(step.target, step.source, os.path.basename(part))
            case Action.WRITE:
                now = _bytes_at(step.target)
                if now == step.previous:
                    return
                if now != step.content:
                    raise _LeftError(_changed(step.target))
                if step.previous is None:
                    os.unlink(step.target)
                else:
                    files.write(step.previous, step.target, part, replacing=True)

    def finish(self, plan: Plan, steps: list[Step]) -> None:
        if plan.target is None:
            return
        for folder in {os.path.dirname(step.target) for step in steps}:
            while folder != plan.target and folder.startswith(plan.target + os.sep):
                _remove_empty(folder)
                folder = os.path.dirname(folder)
        if plan.kind is PlanKind.HOLD_REJECTS:
            _remove_empty(plan.target, holding=True)

    def _move_back(self, target: str, source: str, part: str) -> None:
        """Back to where it was, whatever an earlier, interrupted try has left there."""
        unfinished = os.path.join(os.path.dirname(source), part)
        Path(unfinished).unlink(missing_ok=True)
        if files.is_reservation(source):
            os.unlink(source)
        if os.path.lexists(source) and files.digest_of(source) == files.digest_of(target):
            os.unlink(target)
            return
        files.move(target, source, unfinished)


def part_name(step: Step) -> str:
    """The name under which the target of a step is unfinished."""
    return os.path.join(os.path.dirname(step.target), f".winnow-{step.id}.part")


def _remove_empty(folder: str, *, holding: bool = False) -> None:
    """Removes a folder that nothing is left in; for a holding folder, up to its marker."""
    try:
        if holding:
            marker = Path(folder) / HOLDING_MARKER
            if marker.exists():
                if os.listdir(folder) == [HOLDING_MARKER]:
                    marker.unlink()
                    os.rmdir(folder)
                return
            os.rmdir(folder)
            _remove_empty(os.path.dirname(folder), holding=True)
            return
        os.rmdir(folder)
    except OSError:
        pass


def _bytes_at(path: str) -> bytes | None:
    try:
        return Path(path).read_bytes()
    except FileNotFoundError:
        return None


def _gone(path: str) -> str:
    return f"{display(path)} is no longer there."


def _changed(path: str) -> str:
    return f"{display(path)} was changed since and stays where it is."
