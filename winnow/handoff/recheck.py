"""A plan held against the marks and the files as they are now: both may have changed since it was made."""

from __future__ import annotations

import os
from collections.abc import Mapping, Sequence
from pathlib import Path
from sqlite3 import Connection

from winnow.core.marks import Decision, Marks
from winnow.core.pairing import Role
from winnow.handoff.chosen import frames_of_plan
from winnow.handoff.draft import PlanError, Wish
from winnow.handoff.standing import Standing
from winnow.pipeline.scan import mtime_of
from winnow.store import frame_files, frames, marks, plans
from winnow.store.database import display
from winnow.store.plans import Action, Plan, PlanKind, Step

SHOWN = 50
"""As many differences are told one by one; the rest is counted."""

# What decides, where neither frames were named nor a filter.
_CHOSEN_BY = {
    PlanKind.COPY_KEEPERS: Decision.KEEP,
    PlanKind.MOVE_KEEPERS: Decision.KEEP,
    PlanKind.PROOF: Decision.KEEP,
    PlanKind.HOLD_REJECTS: Decision.REJECT,
}
RESIZED = (Action.WRITE, Action.RENDER)
"""Steps whose size is that of what they make, not of what they read."""
WRITES_MARKS = (PlanKind.WRITE_SIDECARS, PlanKind.WRITE_INSIDE, PlanKind.IMPORT)
_NOUNS = {Decision.KEEP: "a keeper", Decision.REJECT: "a reject"}


def differences(connection: Connection, plan: Plan, steps: Sequence[Step]) -> list[str]:
    """What is not any more as it was when the plan was made, in words; empty if all of it is."""
    then = plans.rests_on(connection, plan.id)
    found = _marks_changed(connection, plan, then)
    by_frame: dict[int, list[Step]] = {}
    for step in steps:
        if step.frame_id is not None:
            by_frame.setdefault(step.frame_id, []).append(step)
        changed = source_changed(step)
        if changed:
            found.append(changed)
    takes_sidecars = plan.kind not in (*WRITES_MARKS, PlanKind.PROOF)
    if takes_sidecars and not plan.wish.get("sized"):
        found += _sidecars_appeared(connection, by_frame)
    if len(found) > SHOWN:
        found = [*found[:SHOWN], f"… and {len(found) - SHOWN} more."]
    return found


def frame_changed(
    connection: Connection,
    plan: Plan,
    frame_id: int | None,
    steps: Sequence[Step],
    then: Mapping[int, Marks],
) -> str | None:
    """Why a frame whose steps are all still to be done is not to be touched as planned, or None. frame_id: None for
    a file that is no frame yet."""
    reason = None
    if frame_id is not None:
        now = marks.current(connection, [frame_id])[frame_id]
        reason = _mark_changed(plan, _name(connection, frame_id), then.get(frame_id), now)
    return reason or next((changed for changed in map(source_changed, steps) if changed), None)


def source_changed(step: Step) -> str | None:
    """Why the file that a step reads is not the one that was planned with, or None. Says nothing of a file that is
    not there."""
    if step.source is None or step.mtime_ns is None or not os.path.lexists(step.source):
        return None
    if step.action is Action.LINK:
        same = os.path.islink(step.source) and os.fsencode(os.readlink(step.source)) == step.previous
    else:
        stat = os.stat(step.source) if os.path.exists(step.source) else os.lstat(step.source)
        same = mtime_of(stat) == step.mtime_ns and (step.action in RESIZED or stat.st_size == step.size)
    return None if same else f"{display(step.source)} was changed after the plan was made."


def _marks_changed(connection: Connection, plan: Plan, then: Mapping[int, Marks]) -> list[str]:
    now = marks.current(connection, then)
    found = []
    for frame_id, before in then.items():
        if now[frame_id] == before:
            continue
        reason = _mark_changed(plan, _name(connection, frame_id), before, now[frame_id])
        if reason:
            found.append(reason)
    if plan.kind is PlanKind.IMPORT:
        return found
    try:
        more = set(_chosen(connection, plan)) - set(then)
    except PlanError as error:
        return [*found, str(error)]
    names = ", ".join(_name(connection, frame_id) for frame_id in sorted(more)[:3])
    if more:
        found.append(f"{len(more)} more frame(s) belong to it now: {names}{', …' if len(more) > 3 else ''}.")
    return found


def _mark_changed(plan: Plan, name: str, before: Marks | None, now: Marks) -> str | None:
    show = plan.wish.get("show", "")
    wanted = _CHOSEN_BY.get(plan.kind)
    if wanted is Decision.KEEP and plan.wish.get("frames"):
        wanted = None
    if show and before is not None and now != before:
        return f"{name} was marked differently after the plan was made."
    if not show and wanted is not None and now.decision is not wanted:
        return f"{name} is no longer {_NOUNS[wanted]}."
    written = plan.kind in WRITES_MARKS or (
        plan.kind in (PlanKind.COPY_KEEPERS, PlanKind.MOVE_KEEPERS) and plan.wish.get("with_marks", True)
    )
    if written and before is not None and now != before:
        return f"{name} was marked differently after the plan was made."
    return None


def _chosen(connection: Connection, plan: Plan) -> list[int]:
    """The frames that the plan would be of now."""
    show, named = plan.wish.get("show", ""), tuple(plan.wish.get("frames", ()))
    return frames_of_plan(connection, plan.shoot_id, Wish(plan.kind, show=show, frames=named))


def _sidecars_appeared(connection: Connection, by_frame: Mapping[int, Sequence[Step]]) -> list[str]:
    disk = Standing()
    found = []
    for frame_id, files in frame_files.files_of(connection, by_frame).items():
        planned = {path for step in by_frame[frame_id] for path in (step.source, step.target)}
        for file in disk.frame(files).files:
            if file.role == Role.SIDECAR and file.path not in planned:
                found.append(f"{display(file.path)} appeared after the plan was made.")
    return found


def _name(connection: Connection, frame_id: int) -> str:
    row = frames.details(connection, frame_id)
    return Path(row["name"]).name if row else f"Frame {frame_id}"
