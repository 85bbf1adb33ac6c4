"""The steps of a plan done."""

from __future__ import annotations

import errno
import hashlib
import json
import os
import stat
from collections.abc import Mapping, Sequence
from pathlib import Path
from sqlite3 import Connection

from send2trash import send2trash  # type: ignore[import-untyped]

from winnow.core.marks import Marks
from winnow.core.pairing import fold
from winnow.formats.sized import Sized
from winnow.formats.splices import sha256
from winnow.handoff import arrivals, files, inside, recheck
from winnow.handoff.copying import Place, SourceError, VerificationError, attributes_lost, copy
from winnow.handoff.reach import Anchor, StoppedError, demand, make_folder
from winnow.handoff.rendering import Renderer, RenderTask
from winnow.handoff.step_parts import (
    ELSEWHERE,
    PLACES,
    LeftError,
    bytes_at,
    changed,
    changed_since,
    content_of,
    gone,
    part_name,
    remove_empty,
    sidecar_named,
    sidecar_written,
)
from winnow.pipeline.locks import contains
from winnow.pipeline.scan import HOLDING_MARKER, mtime_of
from winnow.store import marks, plans
from winnow.store.database import Database, display
from winnow.store.plans import MOVING, Action, Plan, PlanKind, PlanState, Step, StepState
from winnow.store.undo_bytes import pack_undo

PORTION = 500
"""As many new names are given before they are recorded."""
COARSEST_NS = 2_000_000_000
"""The times of files on FAT disks are even seconds (FAT32 File System Specification 1.03, DIR_WrtTime)."""
SAMPLE = 20
"""So many files tell whether it is the same card."""


class Forward:
    """Doing the steps. A file that moves to another disk is copied first; the originals go when all copies are
    there, so that until then nothing but removing copies is needed to roll back."""

    word = "applied"
    starts_from = (PlanState.MADE, PlanState.APPLYING, PlanState.STOPPED)
    running, stopped, ended = PlanState.APPLYING, PlanState.STOPPED, PlanState.APPLIED

    def __init__(self, database: Database, render: Renderer) -> None:
        self.database = database
        self.render = render
        self._anchors: list[Anchor] = []
        self._frames: dict[int, list[Step]] = {}
        self._copies: dict[str, list[Step]] = {}
        self._rests_on: dict[int, Marks] = {}

    def outdated(self, plan: Plan, steps: list[Step]) -> list[str]:
        """What has changed since a plan was made that nothing was done of yet, in words."""
        if plan.state is not PlanState.MADE:
            return []
        demand([Anchor(*anchor) for anchor in plan.anchors])
        return recheck.differences(self.database.connection(), plan, steps)

    def ordered(self, steps: list[Step]) -> list[Step]:
        for step in steps:
            if step.frame_id is not None:
                self._frames.setdefault(step.frame_id, []).append(step)
            if step.action is Action.COPY and step.source:
                self._copies.setdefault(step.source, []).append(step)
        return [step for step in steps if step.state in (StepState.WAITING, StepState.BEGUN)]

    def prepare(self, plan: Plan, steps: list[Step]) -> None:
        self._anchors = [Anchor(*anchor) for anchor in plan.anchors]
        self._rests_on = plans.rests_on(self.database.connection(), plan.id)
        demand(self._anchors)
        if plan.kind is PlanKind.IMPORT:
            _demand_same_card(steps)
        if plan.kind is not PlanKind.HOLD_REJECTS or plan.target is None:
            return
        marker = Path(plan.target) / HOLDING_MARKER
        try:
            make_folder(plan.target, self._anchors)
            if not marker.exists():
                text = {"what": "Rejects that Winnow holds; bring them back there.", "plan": plan.id}
                marker.write_text(json.dumps(text) + "\n")
        except OSError as error:
            raise StoppedError(
                f"The holding folder {display(plan.target)} cannot be made ({error.strerror}). "
                "Mend that and go on, or roll back."
            ) from error

    def portions(self, plan: Plan, steps: list[Step]) -> list[list[Step]]:
        """The steps in portions that are recorded at once: new names are quickly given, and there are many."""
        if plan.kind is PlanKind.RENAME:
            return independent(steps)
        rendered = [step for step in steps if step.action is Action.RENDER]
        others = [step for step in steps if step.action is not Action.RENDER]
        count = self.render.at_once
        together = [rendered[at : at + count] for at in range(0, len(rendered), count)]
        return [*together, *([step] for step in others)]

    def take(self, plan: Plan, portion: list[Step]) -> None:
        """Does a portion of steps, or leaves some for a reason."""
        if portion[0].action is Action.RENDER:
            self._render(plan, portion)
            return
        together = [step for step in portion if step.state is StepState.WAITING] if len(portion) > 1 else []
        for step in portion:
            if len(portion) == 1 or step.state is not StepState.WAITING:
                self._take(plan, step)
        if together:
            self._rename(plan, together)

    def _rename(self, plan: Plan, portion: Sequence[Step]) -> None:
        """Names given, and sidecars written, to many files: begun for all, done for all, recorded for all. Cut off in
        between, each is gone on with by itself."""
        for frame_id in dict.fromkeys(step.frame for step in portion):
            every = self._frames[frame_id]
            reason = self._keeps_its_name(every) if all(s.state is StepState.WAITING for s in every) else None
            if reason:
                # Its files stay together, so none of them is touched.
                self._set(every, StepState.LEFT, reason=reason)
        left: dict[int, str] = {}
        contents: dict[int, bytes] = {}
        for step in portion:
            if step.state is StepState.WAITING and step.action is Action.WRITE:
                try:
                    contents[step.id] = self._content(step)
                except LeftError as error:
                    self._set([step], StepState.LEFT, reason=str(error))
        steps = [step for step in portion if step.state is StepState.WAITING]
        self._begin(steps, contents)
        new = [s for s in steps if s.action is Action.WRITE and s.previous_digest is None]
        fresh = {step.id for step in new}
        with files.synced_at_end() as sync:
            for step in steps:
                try:
                    if step.action is Action.MOVE and step.source:
                        files.rename(step.source, step.target, sync)
                    elif step.action is Action.LINK:
                        self._link(step)
                    elif step.id not in fresh:
                        self._write(step, contents[step.id])
                except LeftError as error:
                    left[step.id] = str(error)
            files.write_new([(contents[s.id], s.target, part_name(s)) for s in new], sync)
        with self.database.transaction() as connection:
            for step in steps:
                if step.id in left:
                    plans.set_step(connection, step, StepState.LEFT, reason=left[step.id])
                else:
                    self._record(connection, plan, step, contents.get(step.id, b""))

    def _begin(self, steps: Sequence[Step], contents: Mapping[int, bytes]) -> None:
        """Record that steps are about to touch their files; of files that are written, with what will lead back."""
        with self.database.transaction() as connection:
            for step in steps:
                content = contents.get(step.id)
                if content is None:
                    plans.set_step(connection, step, StepState.BEGUN)
                    continue
                previous = bytes_at(step.target) if step.previous_digest is not None else None
                undo = None if previous is None else pack_undo(previous, content)
                plans.begin_writing(connection, step, sha256(content), undo)

    def _keeps_its_name(self, steps: Sequence[Step]) -> str | None:
        """Why the files of a frame are not to be named as planned, or None."""
        aside = {step.target for step in steps}
        for step in steps:
            reason = recheck.source_changed(step)
            is_there = step.source is None or step.source in aside or os.path.lexists(step.source)
            if not reason and step.source and not is_there:
                demand(self._anchors)
                reason = gone(step.source)
            if reason:
                return reason
        return None

    def _render(self, plan: Plan, portion: Sequence[Step]) -> None:
        """JPEGs made of pictures, as many at once as there are workers."""
        current = marks.current(self.database.connection(), [step.frame for step in portion])
        made = []
        for step in portion:
            assert step.source is not None
            reason = recheck.source_changed(step)
            if not reason and not os.path.lexists(step.source):
                demand(self._anchors)
                reason = gone(step.source)
            if reason:
                self._set([step], StepState.LEFT, reason=reason)
                continue
            # Where one plan makes several sizes, each step has its own.
            wanted = Sized(**(json.loads(step.content) if step.content else plan.wish["sized"]))
            task = RenderTask(step.source, self._root_of(step.source), wanted, current[step.frame])
            made.append((step, self.render(task)))
        for step, waiting in made:
            try:
                jpeg = waiting.result()
            except (ValueError, RuntimeError) as error:  # it cannot be read, or crashes whoever reads it
                why = f"{display(step.source or '')}: {error or 'it cannot be read.'}"
                self._set([step], StepState.LEFT, reason=why)
                continue
            make_folder(os.path.dirname(step.target), self._anchors)
            digest = hashlib.sha256(jpeg).hexdigest()
            if step.state is StepState.BEGUN:
                self._clear_unfinished(step)
                if os.path.lexists(step.target) and files.digest_of(step.target) == digest:
                    self._set([step], StepState.DONE, digest=digest)
                    continue
            self._set([step], StepState.BEGUN, digest=digest)
            files.write(jpeg, step.target, part_name(step), replacing=False)
            if files.digest_of(step.target, from_disk=True) != digest:
                files.remove(step.target)
                raise VerificationError(errno.EIO, "the JPEG reads back differently", step.target)
            self._set([step], StepState.DONE, digest=digest)

    def _take(self, plan: Plan, step: Step) -> None:
        """Does one step, or leaves it for a reason."""
        if step.state in (StepState.LEFT, StepState.DONE):
            return  # with another of its frame, or with the copy to the other folder
        steps = [step] if step.frame_id is None else self._frames[step.frame_id]
        if all(s.state is StepState.WAITING for s in steps):
            reason = recheck.frame_changed(
                self.database.connection(), plan, step.frame_id, steps, self._rests_on
            )
            if reason:
                # Its files stay together, so none of them is touched.
                self._set(steps, StepState.LEFT, reason=reason)
                return
        try:
            self._do(plan, step)
        except LeftError as error:
            self._set([step], StepState.LEFT, reason=str(error))

    def _do(self, plan: Plan, step: Step) -> None:
        together, content = [step], b""
        resumed = step.state is not StepState.WAITING
        if not resumed:
            if step.action is Action.COPY and step.source:
                together = [s for s in self._copies[step.source] if s.state is StepState.WAITING]
            for one in together:
                if step.action not in (Action.WRITE, Action.BIN, Action.EMBED) and os.path.lexists(
                    one.target
                ):
                    raise files.TargetTakenError(errno.EEXIST, "the name is taken", one.target)
                make_folder(os.path.dirname(one.target), self._anchors)
            if step.action is Action.WRITE:
                content = self._content(step)
                self._begin([step], {step.id: content})
            elif step.action is not Action.EMBED:
                self._set(together, StepState.BEGUN)
        match step.action:
            case Action.COPY:
                self._copy(plan, together, resumed)
            case Action.MOVE:
                self._move(plan, step, resumed)
            case Action.LINK:
                self._link(step)
                self._done(plan, step)
            case Action.WRITE:
                self._done(plan, step, self._write(step, content))
            case Action.BIN:
                self._bin(step, resumed)
                self._done(plan, step)
            case Action.EMBED:
                self._embed(plan, step)

    def _copy(self, plan: Plan, steps: Sequence[Step], resumed: bool) -> None:
        """Copies a file to where each of the steps takes it; steps that go on with what was begun come one by one."""
        step = steps[0]
        assert step.source is not None
        self._demand_source(step)
        if resumed:
            self._clear_unfinished(step)
            if os.path.lexists(step.target) and files.same_content(step.source, step.target):
                self._set([step], StepState.DONE, digest=files.digest_of(step.target))
                return
        for one in steps:
            make_folder(os.path.dirname(one.target), self._anchors)
        places = [Place(one.target, part_name(one)) for one in steps]
        from_card = plan.kind is PlanKind.IMPORT
        try:
            copied = copy(step.source, places, self._root_of(step.source), twice=from_card)
        except SourceError as error:
            demand(self._anchors)
            if not from_card:
                raise
            raise LeftError(
                f"{display(step.source)} cannot be read ({error.strerror}). Try another reader, and make a new plan "
                "for what is missing."
            ) from error
        if from_card:
            for one in steps:
                # Cards are often read-only, and their files say so: on a disk one must be able to clear them out.
                os.chmod(one.target, os.stat(one.target).st_mode | stat.S_IWUSR)
        remark = f"It was read wrongly at first, and copied {copied.tries} times until all agreed."
        said = remark if copied.tries > 1 else None
        self._set(steps, StepState.DONE, digest=copied.digest, reason=said)

    def _root_of(self, path: str) -> str | None:
        """The place of this plan that a file lies in, by its name."""
        return next((anchor.path for anchor in self._anchors if contains(anchor.path, path)), None)

    def _move(self, plan: Plan, step: Step, resumed: bool) -> None:
        source = step.source
        assert source is not None
        if resumed and os.path.lexists(step.target) and not os.path.lexists(source):
            demand(self._anchors)
            if not files.is_reservation(step.target, step.size):
                # It had its new name already when this was cut off.
                self._done(plan, step)
                return
            os.unlink(step.target)
        self._demand_source(step)
        if resumed:
            self._clear_unfinished(step)
            if os.path.lexists(step.target):
                if os.path.samefile(source, step.target):
                    files.remove(source)
                    self._done(plan, step)
                elif files.same_content(source, step.target):
                    self._set([step], StepState.COPIED, digest=files.digest_of(step.target))
                else:
                    raise files.TargetTakenError(errno.EEXIST, "the name is taken", step.target)
                return
        make_folder(os.path.dirname(step.target), self._anchors)
        try:
            files.rename(source, step.target)
        except files.OtherDiskError:
            copied = copy(source, [Place(step.target, part_name(step))], self._root_of(source))
            lost = attributes_lost(source, step.target)
            remark = f"That disk does not keep its attributes: {', '.join(lost)}." if lost else None
            self._set([step], StepState.COPIED, digest=copied.digest, reason=remark)
            return
        self._done(plan, step)

    def _link(self, step: Step) -> None:
        assert step.source is not None and step.content is not None
        there = os.path.islink(step.target) and os.fsencode(os.readlink(step.target)) == step.content
        if not there:
            self._demand_source(step)
            files.make_link(step.content, step.target)
        if os.path.lexists(step.source):
            if recheck.source_changed(step):
                raise LeftError(changed(step.source))
            files.remove(step.source)

    def _embed(self, plan: Plan, step: Step) -> None:
        if not os.path.lexists(step.target):
            demand(self._anchors)
            raise LeftError(gone(step.target))
        Path(part_name(step)).unlink(missing_ok=True)
        way = inside.way_of(self.database.connection(), step)
        if way is None:
            way = inside.prepared(self.database.connection(), plan.id, step)
            with self.database.transaction() as connection:
                plans.begin_writing(connection, step, None, pack_undo(way.packed()))
        digest = inside.embed(step, way)
        with self.database.transaction() as connection:
            base = inside.embedded(connection, plan.id, step)
            plans.set_step(connection, step, StepState.DONE, digest=digest, base=base)

    def _bin(self, step: Step, resumed: bool) -> None:
        """Hands a file to the system's bin: the Trash specification of freedesktop.org, or what the system has."""
        assert step.source is not None
        if resumed and not os.path.lexists(step.source):
            demand(self._anchors)
            return  # it was in the bin already when this was cut off
        self._demand_source(step)
        try:
            send2trash(step.source)
        except OSError as error:
            demand(self._anchors)
            raise LeftError(
                f"{display(step.source)} was not taken by the system's bin ({error.strerror or error}): it stays."
            ) from error

    def _content(self, step: Step) -> bytes:
        """Build what a step writes. Raises LeftError, or StoppedError where its disk is gone."""
        try:
            return content_of(step)
        except LeftError:
            demand(self._anchors)
            raise

    def _write(self, step: Step, content: bytes) -> bytes:
        """Write a file, or go on with that where it was cut off (content is built again then). Returns what it holds.
        Raises LeftError where somebody has changed it."""
        Path(part_name(step)).unlink(missing_ok=True)
        now = bytes_at(step.target)
        if now is None:
            demand(self._anchors)
        elif sha256(now) == step.digest:
            return now
        if (None if now is None else sha256(now)) != step.previous_digest:
            raise LeftError(changed_since(step.target))
        content = content or self._content(step)
        if sha256(content) != step.digest:
            raise LeftError(changed_since(step.source or step.target))
        make_folder(os.path.dirname(step.target), self._anchors)
        files.write(content, step.target, part_name(step), replacing=now is not None)
        return content

    def _demand_source(self, step: Step) -> None:
        """Tells a file that is gone from a disk that is."""
        assert step.source is not None
        if not os.path.lexists(step.source):
            demand(self._anchors)
            raise LeftError(gone(step.source))

    def _clear_unfinished(self, step: Step) -> None:
        """What an interrupted try has left, now that the original is known to be there."""
        Path(part_name(step)).unlink(missing_ok=True)
        if os.path.lexists(step.target) and files.is_reservation(step.target, step.size):
            os.unlink(step.target)

    def _done(self, plan: Plan, step: Step, content: bytes = b"") -> None:
        with self.database.transaction() as connection:
            self._record(connection, plan, step, content)

    def _record(self, connection: Connection, plan: Plan, step: Step, content: bytes) -> None:
        """Record that a step is done. content: what a file holds that was written."""
        base = None
        if step.action in MOVING:
            assert step.source is not None
            plans.file_moved(
                connection, plan.shoot_id, step.frame, step.source, step.target, PLACES[plan.kind]
            )
        elif step.action is Action.BIN:
            plans.file_binned(connection, plan.shoot_id, step.frame, step.target)
        elif step.action is Action.WRITE and plan.kind not in ELSEWHERE:
            renamed = plan.kind is PlanKind.RENAME
            base = (
                sidecar_named(connection, step, content)
                if renamed
                else sidecar_written(connection, plan.id, step, content)
            )
        plans.set_step(connection, step, StepState.DONE, reason=step.reason, base=base)

    def _set(
        self, steps: Sequence[Step], state: StepState, digest: str | None = None, reason: str | None = None
    ) -> None:
        with self.database.transaction() as connection:
            for step in steps:
                plans.set_step(connection, step, state, digest=digest, reason=reason)

    def finish(self, plan: Plan, steps: list[Step]) -> None:
        written = {step.target: step.digest for step in steps if step.action is Action.WRITE}
        for step in steps:
            if step.state is StepState.COPIED:
                self._let_original_go(plan, step, written.get(step.target))
        if plan.kind is PlanKind.IMPORT:
            for target in plan.targets:
                arrivals.close(target, plan, steps)
        if plan.kind in (PlanKind.BRING_BACK, PlanKind.BIN):
            for step in steps:
                if step.source:
                    remove_empty(os.path.dirname(step.source), holding=True)

    def _let_original_go(self, plan: Plan, step: Step, written: str | None) -> None:
        """Do the second half of a move to another disk. written: digest of what was written over the copy: marks."""
        assert step.source is not None
        demand(self._anchors)
        if not os.path.lexists(step.target):
            reason = f"{gone(step.target)} The original was not touched."
            self._set([step], StepState.LEFT, reason=reason)
            return
        if os.path.lexists(step.source):
            marked = written is not None and files.digest_of(step.target) == written
            ours = marked or not _is_other(step, step.target)
            if not ours or _is_other(step, step.source):
                other = step.source if ours else step.target
                reason = f"{display(other)} changed while it was copied: the original and the copy both stay."
                self._set([step], StepState.LEFT, reason=reason)
                return
            files.remove(step.source)
        self._done(plan, step)


def _is_other(step: Step, path: str) -> bool:
    """Whether one of the two ends of a step is not the file any more that was copied. Read only where its size or its
    date speak for that: all of a shoot would take as long as copying it."""
    now = os.stat(path)
    same_time = step.mtime_ns is not None and abs(mtime_of(now) - step.mtime_ns) <= COARSEST_NS
    if now.st_size == step.size and same_time:
        return False
    return files.digest_of(path) != step.digest


def independent(steps: Sequence[Step]) -> list[list[Step]]:
    """Steps in their order, in portions in which no step needs a name that another one gives or takes: what a portion
    that was cut off has reached can be told of each step by itself."""
    portions: list[list[Step]] = []
    used: set[str] = set()
    for step in steps:
        names = {fold(name) for name in (step.source, step.target) if name}
        if not portions or used & names or len(portions[-1]) >= PORTION:
            portions.append([])
            used = set()
        portions[-1].append(step)
        used |= names
    return portions


def _demand_same_card(steps: Sequence[Step]) -> None:
    """Cards are called alike, and their files too: raises StoppedError where another one was put in."""
    sample = [step for step in steps if step.action is Action.COPY and step.source][:SAMPLE]
    others = [s for s in sample if not os.path.lexists(s.source or "") or recheck.source_changed(s)]
    if sample and len(others) == len(sample):
        raise StoppedError(
            "This is another card than the one that the plan was made for: its files are not those. Put that one in "
            "and go on, or make a new plan for this one."
        )
