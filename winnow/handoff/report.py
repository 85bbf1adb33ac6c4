"""What became of an import, file by file: for a page, and as a text that lies beside the copies."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, field

from winnow.pipeline.scan import by_this_clock
from winnow.store.database import display
from winnow.store.plans import Action, Plan, Step, StepState


@dataclass(frozen=True, slots=True)
class CopiedFile:
    """target: where it lies; digest: SHA-256; remark: what is to be said of it."""

    source: str
    target: str
    size: int
    digest: str
    remark: str | None


@dataclass(slots=True)
class Report:
    """`skipped`: (file, where the same file is already). `failed`: (file, why)."""

    copied: list[CopiedFile] = field(default_factory=list)
    skipped: list[tuple[str, str]] = field(default_factory=list)
    failed: list[tuple[str, str]] = field(default_factory=list)
    waiting: int = 0


def report_on(steps: Iterable[Step]) -> Report:
    """What became of the files so far."""
    found = Report()
    for step in steps:
        if step.action is not Action.COPY or step.source is None:
            continue
        source, target = display(step.source), display(step.target)
        match step.state:
            case StepState.DONE:
                copied = CopiedFile(source, target, step.size, step.digest or "", step.reason)
                found.copied.append(copied)
            case StepState.SKIPPED:
                found.skipped.append((source, target))
            case StepState.LEFT:
                found.failed.append((source, step.reason or ""))
            case _:
                found.waiting += 1
    return found


def as_text(plan: Plan, report: Report, ended_at: str) -> str:
    """The report for people: what was copied, with its sums, what was here already, what failed."""
    size = sum(file.size for file in report.copied)
    lines = [
        f"Copied with Winnow from {display(plan.wish.get('source') or '')}",
        *(f"to {display(target)}" for target in plan.targets),
        f"planned {by_this_clock(plan.made_at)}, ended {ended_at}",
        "",
        f"{len(report.copied)} copies, {size} bytes: read from the card twice, and back from the disk; all agree.",
        f"{len(report.skipped)} files were here already and were not copied.",
        f"{len(report.failed)} copies failed.",
    ]
    if report.failed:
        lines += ["", "FAILED", *(f"{path}: {reason}" for path, reason in report.failed)]
    lines += ["", "COPIED (SHA-256, file)"]
    for file in report.copied:
        lines.append(f"{file.digest}  {file.target}{f'  {file.remark}' if file.remark else ''}")
    if report.skipped:
        lines += ["", "HERE ALREADY", *(f"{path} is {where}" for path, where in report.skipped)]
    return "\n".join(lines) + "\n"
