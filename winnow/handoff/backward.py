"""The steps of a plan taken back.

Nothing is completed first and no room is needed that the plan itself did not free: what a step has reached is read
off the disk, and only that is undone.
"""

from __future__ import annotations

import errno
import os
from pathlib import Path

from winnow.formats.splices import sha256
from winnow.handoff import arrivals, files, inside
from winnow.handoff.copying import Place, copy
from winnow.handoff.reach import Anchor, demand, demand_folder, make_folder
from winnow.handoff.recheck import source_changed
from winnow.handoff.step_parts import (
    ELSEWHERE,
    LeftError,
    bytes_at,
    changed,
    gone,
    part_name,
    remove_empty,
    sidecar_put_back,
)
from winnow.pipeline.locks import contains
from winnow.store import plans
from winnow.store.database import Database, display
from winnow.store.plans import MOVING, Action, Plan, PlanKind, PlanState, Step, StepState
from winnow.store.undo_bytes import unpack_undo

_TOUCHED = (StepState.BEGUN, StepState.COPIED, StepState.DONE, StepState.REVERSING)


class Backward:
    """Taking the steps back."""

    word = "reversed"
    starts_from = (
        PlanState.APPLIED,
        PlanState.APPLYING,
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
        self._anchors: list[Anchor] = []

    def outdated(self, plan: Plan, steps: list[Step]) -> list[str]:
        return []

    def ordered(self, steps: list[Step]) -> list[Step]:
        return [step for step in reversed(steps) if step.state in _TOUCHED]

    def prepare(self, plan: Plan, steps: list[Step]) -> None:
        self._anchors = [Anchor(*anchor) for anchor in plan.anchors]
        if not steps:
            return
        demand(self._anchors)
        moved = plans.moved_since(self.database.connection(), plan)
        with self.database.transaction() as connection:
            for step in steps:
                if step.id in moved:
                    reason = f"{display(step.target)} was moved by another plan since."
                    plans.set_step(connection, step, StepState.LEFT, reason=reason)
        steps = [step for step in steps if step.state is not StepState.LEFT]
        if any(step.state is not StepState.BEGUN for step in steps):
            for target in plan.targets:
                demand_folder(target)

    def portions(self, plan: Plan, steps: list[Step]) -> list[list[Step]]:
        return [[step] for step in steps if step.state is not StepState.LEFT]

    def take(self, plan: Plan, portion: list[Step]) -> None:
        for step in portion:
            self._take(plan, step)

    def _take(self, plan: Plan, step: Step) -> None:
        before = step.state
        begun = before is StepState.BEGUN
        with self.database.transaction() as connection:
            # BEGUN stays: only so a later try knows that the target may be somebody else's.
            if not begun:
                plans.set_step(connection, step, StepState.REVERSING, reason=step.reason)
        try:
            previous = self._undo(plan, step, before)
        except LeftError as error:
            with self.database.transaction() as connection:
                plans.set_step(connection, step, StepState.LEFT, reason=str(error))
            return
        with self.database.transaction() as connection:
            plans.set_step(connection, step, StepState.REVERSED)
            if step.action in MOVING:
                assert step.source is not None
                place = "held" if plan.kind is PlanKind.BRING_BACK else "shoot"
                plans.file_moved(connection, plan.shoot_id, step.frame, step.target, step.source, place)
            elif step.action is Action.EMBED:
                inside.taken_out(connection, step)
            elif step.action is Action.WRITE and not begun and plan.kind not in ELSEWHERE:
                sidecar_put_back(connection, step, previous)

    def _undo(self, plan: Plan, step: Step, before: StepState) -> bytes | None:
        """Undo one step. Returns what a file that was written holds again, None where there was none."""
        begun = before is StepState.BEGUN
        match step.action:
            case Action.COPY:
                self._remove_copy(plan, step, begun)
            case Action.RENDER:
                self._remove_made(plan, step, begun)
            case Action.MOVE:
                self._move_back(plan, step, before)
            case Action.LINK:
                self._link_back(plan, step)
            case Action.WRITE:
                return self._write_back(plan, step)
            case Action.EMBED:
                if not os.path.lexists(step.target):
                    self._demand_places(plan, begun)
                inside.take_out(step, inside.way_of(self.database.connection(), step))
            case Action.BIN:
                if not os.path.lexists(step.target):
                    raise LeftError(
                        f"{display(step.target)} is in the system's bin: bring it back from there."
                    )
        return None

    def _remove_copy(self, plan: Plan, step: Step, begun: bool) -> None:
        assert step.source is not None
        if os.path.lexists(step.source):
            Path(part_name(step)).unlink(missing_ok=True)
        if not os.path.lexists(step.target):
            self._demand_places(plan, begun)
            return
        if begun and files.is_reservation(step.target, step.size):
            os.unlink(step.target)
            return
        if begun and step.digest is None:
            ours = os.path.exists(step.source) and files.same_content(step.source, step.target)
        else:
            ours = files.digest_of(step.target) == step.digest
        if not ours:
            raise LeftError(changed(step.target))
        if not os.path.lexists(step.source):
            # With the original gone, or its disk away, this may be the only one there is.
            self._demand_places(plan, begun)
            raise LeftError(f"{gone(step.source)} Its copy {display(step.target)} stays.")
        if source_changed(step) and not files.same_content(step.source, step.target):
            # A card that was in the camera again has others of the same names.
            raise LeftError(
                f"{display(step.source)} is another file now: the copy {display(step.target)} stays."
            )
        files.remove(step.target)

    def _remove_made(self, plan: Plan, step: Step, begun: bool) -> None:
        """What was made can be made again: it goes, unless somebody has changed it, or what it was made of is gone.
        Begun and not recorded, it may be somebody else's: it stays."""
        Path(part_name(step)).unlink(missing_ok=True)
        if not os.path.lexists(step.target):
            return
        if step.digest is None or files.digest_of(step.target) != step.digest:
            raise LeftError(changed(step.target))
        if step.source is not None and not os.path.lexists(step.source):
            self._demand_places(plan, begun)
            raise LeftError(f"{gone(step.source)} What was made of it, {display(step.target)}, stays.")
        files.remove(step.target)

    def _move_back(self, plan: Plan, step: Step, before: StepState) -> None:
        """Back to one file under its old name, whatever was reached in either direction."""
        begun = before is StepState.BEGUN
        source, target = step.source, step.target
        assert source is not None
        if os.path.lexists(source):
            Path(part_name(step)).unlink(missing_ok=True)
        if os.path.lexists(target):
            Path(part_name(step, beside=source)).unlink(missing_ok=True)
        if os.path.lexists(source) and os.path.lexists(target):
            if files.is_reservation(source, step.size) and os.path.getsize(target) == step.size:
                os.unlink(source)
            elif files.is_reservation(target, step.size) or files.same_content(source, target):
                # The same file under two names, or the copy of one that is still there.
                files.remove(target)
                return
            elif begun:
                return  # the name was taken by somebody else before anything was done
            elif step.digest is not None:
                raise LeftError(f"{display(source)} was changed since: it and the copy both stay.")
            else:
                raise files.TargetTakenError(errno.EEXIST, "the name is taken", source)
        if os.path.lexists(source):
            self._demand_places(plan, begun)
            # Where an earlier try was cut off, it is the file itself, in whatever state it came back.
            if before is StepState.DONE and source_changed(step):
                raise LeftError(gone(target))
            return
        if not os.path.lexists(target):
            self._demand_places(plan, begun)
            raise LeftError(gone(target))
        make_folder(os.path.dirname(source), self._anchors)
        try:
            files.rename(target, source)
        except files.OtherDiskError:
            copy(target, [Place(source, part_name(step, beside=source))])
            files.remove(target)

    def _link_back(self, plan: Plan, step: Step) -> None:
        assert step.source is not None and step.previous is not None
        if not os.path.lexists(step.source):
            if not os.path.lexists(step.target):
                self._demand_places(plan, False)
                raise LeftError(gone(step.target))
            make_folder(os.path.dirname(step.source), self._anchors)
            files.make_link(step.previous, step.source)
        elif source_changed(step):
            raise LeftError(changed(step.source))
        if os.path.islink(step.target) and os.fsencode(os.readlink(step.target)) == step.content:
            files.remove(step.target)

    def _write_back(self, plan: Plan, step: Step) -> bytes | None:
        """Put back what a file held before. Returns that, None where there was no file."""
        Path(part_name(step)).unlink(missing_ok=True)
        undo = plans.undo_of(self.database.connection(), step)
        previous, content = (None, b"") if undo is None else unpack_undo(undo)
        now = bytes_at(step.target)
        if now is None:
            self._demand_places(plan, step.state is StepState.BEGUN)
        if now == previous:
            return previous
        if now is None:
            raise LeftError(gone(step.target))
        half = (
            step.state is StepState.REVERSING
            and previous is not None
            and _half_put_back(now, previous, content)
        )
        if sha256(now) != step.digest and not half:
            raise LeftError(changed(step.target))
        if previous is None:
            files.remove(step.target)
        else:
            files.put_back(previous, step.target, part_name(step))
        return previous

    def _demand_places(self, plan: Plan, begun: bool) -> None:
        """Before anything is concluded from a file that is not there."""
        demand(self._anchors)
        for target in plan.targets if not begun else ():
            demand_folder(target)

    def finish(self, plan: Plan, steps: list[Step]) -> None:
        for target in plan.targets:
            for folder in {os.path.dirname(step.target) for step in steps if contains(target, step.target)}:
                while folder != target and contains(target, folder):
                    remove_empty(folder)
                    folder = os.path.dirname(folder)
            if plan.kind is PlanKind.IMPORT:
                arrivals.undo(target, plan, steps)
        if plan.kind is PlanKind.HOLD_REJECTS and plan.target:
            remove_empty(plan.target, holding=True)


def _half_put_back(now: bytes, previous: bytes, content: bytes) -> bool:
    """Tell whether a file is what `put_back` leaves when it is cut off on a full disk: the earlier content up to
    some byte, then ours."""
    pairs = enumerate(zip(now, previous, strict=False))
    same = next((at for at, (a, b) in pairs if a != b), min(len(now), len(previous)))
    return bool(now and content) and now[same:] == content[same:]
