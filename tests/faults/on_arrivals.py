"""Faults while files come from a card to two disks."""

from __future__ import annotations

import random
import time
from collections import Counter
from pathlib import Path

from tests.commands import script
from tests.disks import fill, small_disk
from tests.faults.on_plans import RUNNER, at_step
from tests.faults.scene import NOW, contents
from tests.faults.tally import Tally
from winnow.formats import bag
from winnow.handoff import apply as applying
from winnow.handoff.draft import Wish
from winnow.handoff.plan import make_plan
from winnow.handoff.verify import verify
from winnow.store import plans, shoots
from winnow.store.database import DATABASE, Database
from winnow.store.plans import PlanKind, PlanState


def arriving(folder: Path, rng: random.Random, runs: int) -> Tally:
    """`kill -9` at a random moment, or a second disk that fills up; then, by the toss of a coin, on or back."""
    tally = Tally("kill -9 and full disks in imports")
    for run in range(runs):
        place = folder / f"arriving {run}"
        with small_disk(place / "disk", 128) as disk:
            card = place / "card" / "DCIM"
            for n in range(24):
                path = card / f"{100 + n % 2}CARDS" / f"CRD_{n:04d}.{'JPG' if n % 3 else 'NEF'}"
                path.parent.mkdir(parents=True, exist_ok=True)
                path.write_bytes(rng.randbytes(rng.randrange(1, 900_000)))
            before = contents(card)
            database = Database(place / "data" / DATABASE)
            targets = [place / "Evening", disk / "Evening"]
            with database.transaction() as connection:
                shoot_id = shoots.open_folder(connection, targets[0], NOW)
            wish = Wish(
                PlanKind.IMPORT,
                str(targets[0]),
                keep_folders=True,
                source=str(card),
                second=str(targets[1]),
            )
            plan_id = make_plan(database, shoot_id, wish, NOW)
            what = f"run {run}: {'full' if run % 2 else 'kill -9'}"
            if run % 2:
                full = at_step(rng.randrange(30), lambda disk=disk: fill(disk))  # type: ignore[misc]
                applying.apply(database, plan_id, report=full)
                (disk / "filler").unlink(missing_ok=True)
            else:
                _kill_at_random(database.path, plan_id, rng)
            tally.note(_state(database, plan_id) is not PlanState.APPLIED)
            applying.recover(database)
            if _state(database, plan_id) is PlanState.APPLIED or rng.random() < 0.6:
                if _state(database, plan_id) is not PlanState.APPLIED:
                    applying.apply(database, plan_id)
                tally.lose(_unlike(before, targets), f"{what}, on")
            if _state(database, plan_id) is not PlanState.MADE:
                applying.reverse(database, plan_id)
                left = [path for target in targets if target.exists() for path in contents(target)]
                tally.lose(left, f"{what}, back: left behind")
            if contents(card) != before:
                tally.lose([card], f"{what}: the card was changed")
    return tally


def _kill_at_random(database: Path, plan_id: int, rng: random.Random) -> None:
    process = script(RUNNER, database, plan_id, "apply")
    assert process.stdout is not None
    process.stdout.readline()
    time.sleep(rng.random() ** 2 * 0.6)
    process.kill()
    process.wait()


def _state(database: Database, plan_id: int) -> PlanState:
    plan = plans.get(database.connection(), plan_id)
    assert plan is not None
    return plan.state


def _unlike(before: dict[str, str], targets: list[Path]) -> list[str]:
    """What is not as it has to be at the end: every file on both sides, and manifests that say so."""
    wrong = []
    for target in targets:
        there = {p: digest for p, digest in contents(target).items() if f"/{bag.PAYLOAD}/" in p}
        if Counter(there.values()) != Counter(before.values()):
            wrong.append(f"{target} holds {len(there)} of {len(before)} files")
        elif not (found := verify(target)).whole or found.sound != len(before):
            wrong.append(f"{target}: its manifest differs")
        wrong += [str(path) for path in target.rglob(".winnow-*")]
    return wrong
