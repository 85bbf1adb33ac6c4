"""Tasks that crash the worker on one frame, as a bad file can crash a decoder or a network."""

from __future__ import annotations

import os

from winnow.pipeline import tasks

VICTIM = "WIN_0003"


def derive(task: tasks.DeriveTask) -> tasks.DeriveResult:
    if VICTIM in task.path:
        os.abort()
    return tasks.derive(task)


def prepare(task: tasks.PrepareTask) -> tasks.DeriveResult:
    if VICTIM in task.derive.path:
        os.abort()
    return tasks.prepare(task)
