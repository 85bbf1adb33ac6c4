"""The simulated outside world: a card that is pulled out, an editor that writes, a client that answers."""

from __future__ import annotations

import json
import os
import subprocess
import sys
import time
from pathlib import Path

import pytest

from tests.handoff.test_plans import NOW, Shoot, contents
from tests.pipeline.test_pipeline import prepared
from winnow.api.desk import Desk
from winnow.core.marks import Decision, Field
from winnow.demo.card import Card
from winnow.demo.client import STRANGER, choose
from winnow.demo.editor import EDITS, edit
from winnow.formats import xmp
from winnow.handoff.draft import Wish
from winnow.handoff.plan import make_plan
from winnow.pipeline.engine import wait_until_idle
from winnow.store import frames, marks, plans
from winnow.store.plans import PlanKind, PlanState


@pytest.fixture
def few(tmp_path: Path, shoot_folder: Path) -> Path:
    return shoot_folder


def test_the_card_is_read_only_and_laid_out_as_dcf(tmp_path: Path, few: Path) -> None:
    card = Card(tmp_path / "slot", few)
    inserted = card.insert()
    assert inserted == (tmp_path / "slot" / "DCIM").resolve()
    assert contents(inserted) == contents(few)
    assert all(not path.stat().st_mode & 0o222 for path in inserted.rglob("*"))
    card.pull()
    assert not card.slot.exists()
    card.insert()
    card.pull()


def test_a_card_pulled_out_in_the_middle_of_a_copy(desk: Desk, tmp_path: Path, few: Path) -> None:
    card = Card(tmp_path / "slot", few)
    inserted = card.insert()
    before = contents(inserted)
    shoot = desk.open_folder(str(inserted))
    wait_until_idle(desk.engine)
    target = tmp_path / "keepers"
    with desk.database.transaction() as connection:
        ids = [row["id"] for row in frames.summaries(connection, shoot)]
        keepers = {frame: {Field.DECISION: Decision.KEEP.value} for frame in ids}
        marks.set_marks(connection, shoot, keepers, kind="mark", actor="person", title="t", now=NOW)  # type: ignore[arg-type]
    plan = make_plan(desk.database, shoot, Wish(PlanKind.COPY_KEEPERS, str(target), with_marks=False), NOW)
    card.pull_at_read(3)
    assert desk.runner.start(plan).result(30) is PlanState.STOPPED
    stopped = plans.get(desk.database.connection(), plan)
    assert stopped is not None and stopped.error
    assert not list(target.glob("*.part*")), "half a file must not stay"
    whole = contents(target)
    assert 0 < len(whole) < len(before)
    assert set(whole.values()) <= set(before.values())
    card.insert()
    assert desk.runner.start(plan).result(30) is PlanState.APPLIED
    assert sorted(contents(target).values()) == sorted(before.values())
    card.pull()


def test_a_slow_card_takes_its_time(tmp_path: Path, few: Path) -> None:
    card = Card(tmp_path / "slot", few)
    path = next(card.insert().rglob("*.JPG"))
    size = path.stat().st_size
    card.slow_down(size / 0.2)
    start = time.monotonic()
    path.read_bytes()
    assert time.monotonic() - start >= 0.2
    card.slow_down(1e12)
    card.pull()


def test_what_the_editor_wrote_is_noticed_and_ours_is_kept(desk: Desk, shoot_folder: Path) -> None:
    shoot = Shoot(desk, shoot_folder)
    assert shoot.apply(shoot.plan(PlanKind.WRITE_SIDECARS)) is PlanState.APPLIED
    shoot.mark(Field.RATING, 1, 0)
    shoot.mark(Field.DECISION, "keep", 3)
    files = sorted((shoot_folder / "100WINNO").glob("*.JPG"))
    log = shoot_folder.parent / "editor.log"
    command = [sys.executable, "-m", "winnow.demo.editor", "--log", log, *files]
    subprocess.run(command, check=True)
    assert log.read_text().split("\n")[:-1] == [str(file) for file in files]
    later = time.time() + 60
    for file, (rating, label) in zip(files, EDITS, strict=False):
        sidecar = file.with_suffix(".xmp")
        os.utime(sidecar, (later, later))
        read = json.loads(subprocess.run(["exiftool", "-j", sidecar], capture_output=True).stdout)[0]
        assert (read["Rating"], read.get("Label")) == (rating, label)
        assert xmp.read_marks(sidecar.read_bytes()).rating == rating
    assert b"urn:example:dev/" in (shoot_folder / "100WINNO" / "WIN_0001.xmp").read_bytes()
    desk.engine.open(shoot.id)
    wait_until_idle(desk.engine)
    rows = shoot.rows()
    # Changed on both sides since they agreed: what a person said stays, and a note says what is there.
    assert (rows[0]["rating"], rows[3]["decision"]) == (1, "keep")
    assert ["newer than your marks" in str(row["note"]) for row in rows] == [n in (0, 3) for n in range(6)]
    # Changed there alone: theirs, also where both had agreed on what a person said.
    assert [row["rating"] for row in rows[1:3]] == [4, 0] and rows[2]["decision"] == "reject"
    assert (rows[5]["decision"], rows[5]["label"]) == ("undecided", EDITS[1][1])


def test_marks_of_the_editor_are_read_where_there_are_none(desk: Desk, shoot_folder: Path) -> None:
    edit(sorted((shoot_folder / "100WINNO").glob("*.JPG")))
    found = list(prepared(desk, shoot_folder).values())
    assert [(row["decision"], row["rating"]) for row in found[:3]] == [
        ("undecided", 5), ("undecided", 4), ("reject", 0)
    ]  # fmt: skip


def test_the_client_mistypes_but_means_proofs() -> None:
    proofs = [f"KILN_{n:04d}.JPG" for n in range(1, 61)]
    answer = choose(proofs, seed=3)
    assert answer == choose(proofs, seed=3) != choose(proofs, seed=4)
    meant = [choice.meant for choice in answer if choice.meant]
    assert len(meant) == len(set(meant)) == 18 and set(meant) <= set(proofs)
    assert answer[-1].typed == STRANGER and answer[-1].meant is None
    exact = [choice for choice in answer if choice.typed == choice.meant]
    assert 0 < len(exact) < len(meant) / 2
    for choice in answer[:-1]:
        # Nothing but case, ending, separator and the order of digits may differ.
        plain = choice.typed.upper().removesuffix(".JPG").replace(" ", "_")
        assert choice.meant is not None
        assert sorted(plain) == sorted(choice.meant.removesuffix(".JPG"))
    assert choose([]) == []
