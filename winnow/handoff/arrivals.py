"""What an import leaves beside its copies: a bag's manifest (`formats.bag`) and a report."""

from __future__ import annotations

import os
from collections.abc import Sequence
from contextlib import suppress
from datetime import UTC, datetime
from pathlib import Path

from winnow.formats import bag
from winnow.handoff import files
from winnow.handoff.report import as_text, report_on
from winnow.handoff.step_parts import remove_empty
from winnow.pipeline.locks import contains
from winnow.pipeline.scan import by_this_clock
from winnow.store.plans import Action, Plan, Step, StepState


def close(target: str, plan: Plan, steps: Sequence[Step]) -> None:
    """Writes the manifest of a target with what a plan has put there, and the report; what others have put there
    stays in the manifest. Raises OSError."""
    now = by_this_clock(datetime.now(UTC).isoformat(timespec="seconds"))
    sums = _known(target)
    for step in _below(target, steps):
        if step.state is StepState.DONE:
            assert step.digest is not None
            sums[_path(target, step)] = step.digest
    if sums:
        _write(target, plan, sums, now[:10])
        text = as_text(plan, report_on(steps), now)
        _put(plan, os.path.join(target, report_name(plan)), text.encode("utf-8", "replace"))


def undo(target: str, plan: Plan, steps: Sequence[Step]) -> None:
    """The same without what a plan has put there and taken back. Raises OSError."""
    sums = _known(target)
    gone = {_path(target, step) for step in _below(target, steps) if not os.path.lexists(step.target)}
    left = {path: digest for path, digest in sums.items() if path not in gone}
    if left:
        _write(target, plan, left, by_this_clock(plan.made_at)[:10])
    elif sums:
        for name in (bag.DECLARATION, bag.INFO, bag.MANIFEST, bag.TAG_MANIFEST):
            Path(target, name).unlink(missing_ok=True)
    Path(target, report_name(plan)).unlink(missing_ok=True)
    remove_empty(target)


def report_name(plan: Plan) -> str:
    """What the text beside the copies is called: one for each time that something was copied there."""
    made_at = by_this_clock(plan.made_at)
    return f"copied {made_at[:10]} {made_at[11:16].replace(':', '')} ({plan.id}).txt"


def _known(target: str) -> dict[str, str]:
    """What the manifest says so far."""
    with suppress(bag.BagError, FileNotFoundError):
        return bag.manifest_of(Path(target))
    return {}


def _below(target: str, steps: Sequence[Step]) -> list[Step]:
    return [s for s in steps if s.action in (Action.COPY, Action.WRITE) and contains(target, s.target)]


def _path(target: str, step: Step) -> str:
    return os.path.relpath(step.target, target).replace(os.sep, "/")


def _write(target: str, plan: Plan, sums: dict[str, str], day: str) -> None:
    octets = 0
    for path in sums:
        # One that was moved away since, as rejects are, stays: the manifest says what was copied.
        with suppress(FileNotFoundError):
            octets += os.path.getsize(os.path.join(target, path))
    for name, content in bag.tag_files(sums, octets, day).items():
        _put(plan, os.path.join(target, name), content)


def _put(plan: Plan, path: str, content: bytes) -> None:
    part = os.path.join(os.path.dirname(path), f".winnow-{plan.id}.tag.part")
    files.write(content, path, part, replacing=os.path.lexists(path))
