"""Faults while plans are applied and taken back."""

from __future__ import annotations

import json
import os
import random
import subprocess
import time
from collections.abc import Callable
from contextlib import ExitStack
from pathlib import Path

from tests.commands import script
from tests.disks import fill, small_disk
from tests.faults.scene import Scene, contents
from tests.faults.tally import Tally
from winnow.handoff import apply as applying
from winnow.handoff.inside import way_of
from winnow.handoff.reach import StoppedError
from winnow.store import plans
from winnow.store.plans import PlanKind, PlanState

KINDS = (
    PlanKind.COPY_KEEPERS,
    PlanKind.MOVE_KEEPERS,
    PlanKind.HOLD_REJECTS,
    PlanKind.BRING_BACK,
    PlanKind.WRITE_SIDECARS,
    PlanKind.RENAME,
)

RUNNER = """
import sys
from pathlib import Path
from winnow.handoff import apply
from winnow.store.database import Database
database = Database(Path(sys.argv[1]))
print("begins", flush=True)
getattr(apply, sys.argv[3])(database, int(sys.argv[2]))
"""


def killed(folder: Path, rng: random.Random, runs: int) -> Tally:
    """`kill -9` at a random moment of a plan or of its reversal; then, by the toss of a coin, on or back."""
    tally = Tally("kill -9 in plans")
    with ExitStack() as stack:
        disk = stack.enter_context(small_disk(folder / "disk"))
        scene = Scene(folder / "one", folder / "data", rng)
        for run in range(runs):
            scene.mark_at_random()
            kind = KINDS[run % len(KINDS)]
            target = rng.choice([disk, folder]) / f"keepers {run}"
            plan_id, undo = _ready(scene, kind, target)
            way = rng.choice(["apply", "reverse"])
            if way == "reverse":
                applying.apply(scene.database, plan_id)
            reached = _kill_at_random(scene, plan_id, way, rng)
            tally.note(reached)
            tally.lose(scene.lost(target), f"run {run}: {kind} {way} lost what it had")
            applying.recover(scene.database)
            _end(scene, plan_id, rng, tally, f"run {run}: {kind} {way}", target)
            if kind is PlanKind.WRITE_SIDECARS and scene.read(plan_id).state is PlanState.APPLIED:
                tally.lose(_misread(scene), f"run {run}: sidecars as exiftool reads them")
            _back_to_start(scene, undo, tally, f"run {run}: {kind} {way}", target)
    return tally


def binned(folder: Path, rng: random.Random, runs: int) -> Tally:
    """`kill -9` while rejects go to the system's bin: each lies in the holding folder or in the bin."""
    tally = Tally("kill -9 on the way to the bin")
    for run in range(runs):
        scene = Scene(folder / f"one {run}", folder / f"data {run}", rng)
        scene.mark_at_random()
        applying.apply(scene.database, scene.plan(PlanKind.HOLD_REJECTS, None))
        bin_ = folder / f"xdg {run}"
        plan_id = scene.plan(PlanKind.BIN, None)
        tally.note(_kill_at_random(scene, plan_id, "apply", rng, XDG_DATA_HOME=str(bin_)))
        tally.lose(scene.lost(bin_), f"run {run}: in neither place")
        applying.recover(scene.database)
        if scene.read(plan_id).state is not PlanState.APPLIED:
            script(RUNNER, scene.database.path, plan_id, "apply", XDG_DATA_HOME=str(bin_)).wait(60)
        tally.lose(contents(scene.holding), f"run {run}: still held, {scene.read(plan_id).state}")
        tally.lose(scene.lost(bin_), f"run {run}: lost when it ended")
    return tally


def inside(folder: Path, rng: random.Random, runs: int) -> Tally:
    """`kill -9` while marks go into pictures, or out again: each is what it was or what it was to be, and is what it
    was when all is taken back."""
    tally = Tally("kill -9 while marks go into pictures")
    scene = Scene(folder / "one", folder / "data", rng)
    for run in range(runs):
        scene.mark_at_random()
        plan_id = scene.plan(PlanKind.WRITE_INSIDE, None)
        way = rng.choice(["apply", "reverse"])
        if way == "reverse":
            applying.apply(scene.database, plan_id)
        tally.note(_kill_at_random(scene, plan_id, way, rng))
        applying.recover(scene.database)
        connection = scene.database.connection()
        ways = [way_of(connection, step) for step in plans.steps(connection, plan_id)]
        whole = set(scene.before.values()) | {way.after for way in ways if way is not None}
        odd = {path for path, digest in contents(scene.folder).items() if digest not in whole}
        tally.lose(odd, f"run {run}: {way} left what is neither")
        _end(scene, plan_id, rng, Tally("counted above"), f"run {run}", folder)
        _back_to_start(scene, [plan_id], tally, f"run {run}: {way}", folder / "nowhere")
    return tally


def _misread(scene: Scene) -> list[str]:
    """Frames whose marks an independent reader (Debian's exiftool) does not find in their sidecars."""
    command = ["exiftool", "-q", "-j", "-r", "-ext", "xmp", "-XMP-xmp:Rating", "-XMP-xmp:Label", scene.folder]
    read = json.loads(subprocess.run(command, capture_output=True).stdout)
    found = {Path(entry["SourceFile"]).stem: entry for entry in read}
    wrong = []
    for name, (decision, rating, label) in scene.marks().items():
        wanted = (-1 if decision == "reject" else rating, label)
        entry = found.get(Path(name).stem, {})
        if (entry.get("Rating", 0), entry.get("Label")) != wanted:
            wrong.append(f"{name}: {entry} instead of {wanted}")
    return wrong


def _ready(scene: Scene, kind: PlanKind, target: Path) -> tuple[int, list[int]]:
    """A plan of a kind, and the plans that must be taken back after it, last first."""
    if kind is not PlanKind.BRING_BACK:
        plan_id = scene.plan(kind, target)
        return plan_id, [plan_id]
    held = scene.plan(PlanKind.HOLD_REJECTS, None)
    applying.apply(scene.database, held)
    plan_id = scene.plan(PlanKind.BRING_BACK, None)
    return plan_id, [plan_id, held]


def _kill_at_random(scene: Scene, plan_id: int, way: str, rng: random.Random, **env: str) -> bool:
    process = script(RUNNER, scene.database.path, plan_id, way, **env)
    assert process.stdout is not None
    process.stdout.readline()
    time.sleep(rng.random() ** 2 * 0.25)
    process.kill()
    return process.wait() != 0


def _end(scene: Scene, plan_id: int, rng: random.Random, tally: Tally, what: str, target: Path) -> None:
    """Every plan ends in one of two known states, whichever way is chosen."""
    for _ in range(3):
        state = scene.read(plan_id).state
        if state in (PlanState.APPLIED, PlanState.REVERSED):
            break
        forward = state in (PlanState.MADE, PlanState.STOPPED) and rng.random() < 0.5
        try:
            (applying.apply if forward else applying.reverse)(scene.database, plan_id)
        except StoppedError as error:
            if state is PlanState.MADE and not forward:
                applying.apply(scene.database, plan_id)
            else:
                tally.lose([str(error)], what)
    state = scene.read(plan_id).state
    if state not in (PlanState.APPLIED, PlanState.REVERSED):
        tally.lose([f"{state}: {scene.read(plan_id).error}"], f"{what} does not end")
    tally.lose(scene.lost(target), f"{what} lost when it ended")


def _back_to_start(scene: Scene, undo: list[int], tally: Tally, what: str, target: Path) -> None:
    """Taken back, all is as it was, to the byte."""
    for plan_id in undo:
        if scene.read(plan_id).state is PlanState.APPLIED:
            applying.reverse(scene.database, plan_id)
        if scene.read(plan_id).state is not PlanState.REVERSED:
            tally.lose([str(scene.read(plan_id).error)], f"{what} cannot be taken back")
    now = contents(scene.folder)
    if now != scene.before:
        odd = sorted(set(now.items()) ^ set(scene.before.items()))
        tally.lose([f"{k} {v[:8]}" for k, v in odd], f"{what}: the shoot is not as it was")
    left = [*contents(scene.holding)] + ([*contents(target)] if target.exists() else [])
    tally.lose(left, f"{what}: left behind")
    scene.list()
    tally.lose(scene.wrong_places(), f"{what}: frames that are not in the shoot")


def filled(folder: Path, rng: random.Random, runs: int) -> Tally:
    """A disk that fills up at a random step, as target or as data folder; then on with room, or back without."""
    tally = Tally("full disks in plans")
    for run in range(runs):
        place = folder / f"full {run}"
        with small_disk(place / "disk", 96) as disk:
            data = disk / "data" if run % 2 else place / "data"
            scene = Scene(place / "one", data, rng)
            scene.mark_at_random()
            kind = KINDS[run // 2 % 2]
            target = disk / "keepers"
            plan_id = scene.plan(kind, target)
            applying.apply(scene.database, plan_id, report=at_step(rng.randrange(6), lambda: fill(disk)))
            state = scene.read(plan_id).state
            tally.note(state is not PlanState.APPLIED)
            what = f"run {run}: {kind}, {'data' if run % 2 else 'target'} full, {state}"
            tally.lose(scene.lost(target), what)
            if rng.random() < 0.5:
                (disk / "filler").unlink(missing_ok=True)
            applying.recover(scene.database)
            if scene.read(plan_id).state not in (PlanState.APPLIED, PlanState.REVERSED):
                applying.reverse(scene.database, plan_id)
            _end(scene, plan_id, rng, tally, what, target)
            (disk / "filler").unlink(missing_ok=True)
            _back_to_start(scene, [plan_id], tally, what, target)
    return tally


def pulled(folder: Path, rng: random.Random, runs: int) -> Tally:
    """The folder of the shoot, or that of the target, goes away at a random step and comes back later."""
    tally = Tally("folders pulled out in plans")
    scene = Scene(folder / "pulled" / "one", folder / "pulled" / "data", rng)
    for run in range(runs):
        scene.mark_at_random()
        kind = KINDS[run % len(KINDS)]
        volume = folder / "pulled" / f"volume {run}"
        volume.mkdir()
        target = volume / "keepers"
        plan_id, undo = _ready(scene, kind, target)
        needs_target = kind in (PlanKind.COPY_KEEPERS, PlanKind.MOVE_KEEPERS)
        gone = volume if needs_target and rng.random() < 0.5 else scene.folder
        away = gone.with_name(gone.name + " away")
        way = rng.choice(["apply", "reverse"])
        if way == "reverse":
            applying.apply(scene.database, plan_id)

        def pull(gone: Path = gone, away: Path = away) -> None:
            gone.rename(away)

        getattr(applying, way)(scene.database, plan_id, report=at_step(rng.randrange(8), pull))
        what = f"run {run}: {kind} {way} without {gone.name}"
        if away.exists():
            tally.note(True)
            ended = scene.read(plan_id).state
            if ended in (PlanState.APPLIED, PlanState.REVERSED):
                tally.lose([ended], f"{what} counts as done")
            if gone.exists():
                tally.lose(list(contents(gone)) or [str(gone)], f"{what} made a folder in its place")
                os.rmdir(gone)
            away.rename(gone)
        else:
            tally.note(False)
        tally.lose(scene.lost(target), what)
        _end(scene, plan_id, rng, tally, what, target)
        _back_to_start(scene, undo, tally, what, target)
    return tally


def at_step(step: int, then: Callable[[], object]) -> Callable[[int, int], None]:
    """A report of progress that does something at a step."""

    def report(done: int, total: int) -> None:
        if done == step and done < total:
            then()

    return report
