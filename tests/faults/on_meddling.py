"""Faults while somebody else works in the same folders: between a kill and the going on, files are deleted, written
over, or put where a plan has its own to put."""

from __future__ import annotations

import hashlib
import os
import random
from contextlib import suppress
from pathlib import Path

from tests.disks import small_disk
from tests.faults.scene import Scene, contents
from tests.faults.tally import Tally
from tests.handoff.killing import killed_at
from winnow.handoff import apply as applying
from winnow.handoff.reach import StoppedError
from winnow.store import plans
from winnow.store.plans import PlanKind, PlanState

KINDS = (
    PlanKind.COPY_KEEPERS,
    PlanKind.MOVE_KEEPERS,
    PlanKind.HOLD_REJECTS,
    PlanKind.RENAME,
    PlanKind.WRITE_SIDECARS,
)
WAYS = {
    PlanState.MADE: ("apply",),
    PlanState.STOPPED: ("apply", "reverse"),
    PlanState.APPLIED: ("reverse",),
    PlanState.REVERSAL_STOPPED: ("reverse",),
}


def meddled(folder: Path, rng: random.Random, runs: int) -> Tally:
    """What was there after the meddling, the photographer's or the other's, is there at the end, whichever way the
    plan goes; and every refusal is one that was foreseen."""
    tally = Tally("others at work in the folders")
    with small_disk(folder / "disk") as disk:
        for run in range(runs):
            place = folder / f"run {run}"
            scene = Scene(place, place / "data", rng, 8)
            scene.mark_at_random()
            kind = KINDS[run % len(KINDS)]
            target = rng.choice([place, disk]) / f"keepers {run}"
            plan_id = scene.plan(kind, target)
            way = rng.choice(["apply", "reverse"])
            if way == "reverse":
                applying.apply(scene.database, plan_id)
            tally.note(killed_at(rng.randrange(1, 60), scene.database.path, plan_id, way))
            applying.recover(scene.database)
            mine = set(scene.pictures) | _meddle(scene, plan_id, rng)
            for _ in range(4):
                state = scene.read(plan_id).state
                if state not in WAYS:
                    break
                before = _whole(place, disk) & mine
                way = rng.choice(WAYS[state])
                with suppress(StoppedError):
                    getattr(applying, way)(scene.database, plan_id)
                plan = scene.read(plan_id)
                what = f"run {run}: {kind} {way} from {state}"
                tally.lose(before - _whole(place, disk), f"{what}: lost")
                if "unexpectedly" in (plan.error or "") or plan.state in plans.UNFINISHED:
                    tally.lose([f"{plan.state}: {plan.error}"], what)
    return tally


def _meddle(scene: Scene, plan_id: int, rng: random.Random) -> set[str]:
    """Does what other programs do, to some of the files of a plan. Returns what they wrote."""
    own = set()
    every = plans.steps(scene.database.connection(), plan_id)
    for step in rng.sample(every, (len(every) + 1) // 2):
        path = Path(os.fsdecode(rng.choice([step.source or step.target, step.target])))
        if path.is_file() and not path.is_symlink() and rng.random() < 0.4:
            path.unlink()
            own.discard(str(path))
        elif not path.is_symlink():
            path.parent.mkdir(parents=True, exist_ok=True)
            path.write_bytes(rng.randbytes(100))
            own.add(str(path))
    return {hashlib.sha256(Path(path).read_bytes()).hexdigest() for path in own}


def _whole(*folders: Path) -> set[str]:
    """What whole files hold, not those that are being written."""
    return {digest for path, digest in contents(*folders).items() if not path.endswith(".part")}
