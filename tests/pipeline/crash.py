"""A derive task that kills its process on one file, for the worker processes to import."""

from __future__ import annotations

import os

from winnow.pipeline import tasks

really_derive = tasks.derive


def derive(task: tasks.DeriveTask) -> tasks.DeriveResult:
    if "0003" in task.path:
        os._exit(139)
    return really_derive(task)
