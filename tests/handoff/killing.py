"""Plans killed at a known moment: before or after one of the calls that change the disk."""

from __future__ import annotations

from pathlib import Path

from tests.commands import script

_KILLER = """
import os, sys
from pathlib import Path
from winnow.handoff import apply
from winnow.store import plans
from winnow.store.database import Database

data, plan_id, way, moment = sys.argv[1], int(sys.argv[2]), sys.argv[3], int(sys.argv[4])
count = 0

def tick():
    global count
    count += 1
    if count == moment:
        os.kill(os.getpid(), 9)

def watched(function):
    def call(*arguments, **options):
        tick()
        result = function(*arguments, **options)
        tick()
        return result
    return call

for name in ("link", "unlink", "replace", "fsync", "rmdir"):
    setattr(os, name, watched(getattr(os, name)))
plans.set_step = watched(plans.set_step)
getattr(apply, way)(Database(Path(data)), plan_id)
"""


def killed_at(moment: int, database: Path, plan_id: int, way: str) -> bool:
    """`kill -9` in a plan that is applied, or taken back (`reverse`). False: it had ended by then."""
    run = script(_KILLER, database, plan_id, way, moment)
    assert run.wait(60) in (0, -9)
    return run.returncode != 0
