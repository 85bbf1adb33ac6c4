"""The size of a plan in the database: small before it is applied, what is needed to undo it afterwards, nothing once
it was replaced."""

from __future__ import annotations

import os
import random
from pathlib import Path

import pytest

from tests import photographs
from tests.handoff.test_plans import NOW, Shoot, contents, shoot  # noqa: F401
from tests.schemas import database_of_schema
from winnow.formats.splices import sha256
from winnow.handoff import apply as applying
from winnow.store import plans
from winnow.store.database import Database
from winnow.store.plans import PlanKind, PlanState
from winnow.store.undo_bytes import unpack_undo

SIDECAR_BYTES = 15_000


def settings(seed: int) -> bytes:
    """A sidecar with 15 kB of settings of an editing program."""
    chance = random.Random(seed)
    curve = ", ".join(f"{chance.randrange(256)}" for _ in range(SIDECAR_BYTES // 5))
    return (
        '<x:xmpmeta xmlns:x="adobe:ns:meta/"><rdf:RDF xmlns:rdf="http://www.w3.org/1999/02/22-rdf-syntax-ns#">'
        f'<rdf:Description rdf:about="" xmlns:dev="urn:example:dev/" dev:Curve="{curve}"/></rdf:RDF></x:xmpmeta>'
    ).encode()


def give_settings(shoot: Shoot) -> None:  # noqa: F811
    for seed, path in enumerate(sorted(shoot.folder.rglob("*.JPG"))):
        path.with_suffix(".xmp").write_bytes(settings(seed))


def bytes_of(shoot: Shoot, plan_id: int) -> list[int]:  # noqa: F811
    """What the steps of a plan take, with the marks that they were planned with."""
    columns = (
        "source",
        "target",
        "content",
        "previous",
        "recipe",
        "undo",
        "digest",
        "previous_digest",
        "base",
        "reason",
    )
    size = " + ".join(f"coalesce(length({column}), 0)" for column in columns)
    rows = shoot.desk.database.connection().execute(f"SELECT {size} FROM step WHERE plan_id = ?", (plan_id,))
    return [row[0] for row in rows]


def test_a_step_holds_what_changes_not_the_file(shoot: Shoot) -> None:  # noqa: F811
    give_settings(shoot)
    for kind in (PlanKind.WRITE_SIDECARS, PlanKind.WRITE_INSIDE):
        planned = bytes_of(shoot, shoot.plan(kind))
        assert planned and max(planned) <= 1000


def test_an_applied_plan_holds_what_undoes_it_and_an_undone_one_nothing(shoot: Shoot) -> None:  # noqa: F811
    give_settings(shoot)
    before = contents(shoot.folder)
    plan_id = shoot.plan(PlanKind.WRITE_SIDECARS)
    assert shoot.apply(plan_id) is PlanState.APPLIED
    assert contents(shoot.folder) != before
    held = bytes_of(shoot, plan_id)
    assert 1000 < max(held) < SIDECAR_BYTES
    connection = shoot.desk.database.connection()
    assert not connection.execute("SELECT 1 FROM plan_frame WHERE plan_id = ?", (plan_id,)).fetchone()
    assert shoot.reverse(plan_id) is PlanState.REVERSED
    assert contents(shoot.folder) == before
    assert max(bytes_of(shoot, plan_id)) < 1000


def test_a_plan_that_was_replaced_is_deleted_and_so_is_one_of_yesterday(shoot: Shoot) -> None:  # noqa: F811
    def known() -> list[int]:
        return [row[0] for row in shoot.desk.database.connection().execute("SELECT id FROM plan ORDER BY id")]

    first = shoot.plan(PlanKind.WRITE_SIDECARS)
    second = shoot.plan(PlanKind.WRITE_SIDECARS)
    assert first not in known() and second in known() and not bytes_of(shoot, first)
    plans.delete_unapplied(shoot.desk.database, "2026-10-18T19:59:00.000+00:00")
    assert second in known()
    plans.delete_unapplied(shoot.desk.database, "2026-10-18T20:01:00.000+00:00")
    assert second not in known() and not bytes_of(shoot, second)


def test_a_sidecar_that_changed_after_the_plan_was_made_is_left(shoot: Shoot) -> None:  # noqa: F811
    """Also where its size and its date are those it had."""
    give_settings(shoot)
    plan_id = shoot.plan(PlanKind.WRITE_SIDECARS)
    victim = sorted(shoot.folder.rglob("*.xmp"))[1]
    stat, other = victim.stat(), victim.read_bytes().replace(b"Curve", b"Curvy")
    victim.write_bytes(other)
    os.utime(victim, ns=(stat.st_atime_ns, stat.st_mtime_ns))
    assert shoot.apply(plan_id) is PlanState.APPLIED
    assert victim.read_bytes() == other
    (left,) = plans.left_behind(shoot.desk.database.connection(), plan_id)
    assert "changed after the plan was made" in left[1]


@pytest.mark.parametrize("state", ["applied", "stopped"])
def test_plans_of_an_earlier_release_can_still_be_undone(tmp_path: Path, state: str) -> None:
    """Their steps hold whole contents (schema 20)."""
    folder = tmp_path / "shoot"
    photographs.save(folder / "a.jpg", edge=photographs.SMALL)
    old, new = settings(1), settings(2)
    (folder / "a.xmp").write_bytes(new)
    path = tmp_path / "winnow.sqlite"
    with database_of_schema(path, 20) as connection:
        connection.executescript(
            """INSERT INTO shoot (id, title, created_at, opened_at) VALUES (1, 't', '', '');
               INSERT INTO folder (id, shoot_id, path) VALUES (1, 1, x'2f');
               INSERT INTO frame (id, shoot_id, folder_id, name, version) VALUES (1, 1, 1, 'a.jpg', 'v');"""
        )
        connection.execute(
            "INSERT INTO plan (id, shoot_id, kind, state, summary, made_at, wish) "
            "VALUES (1, 1, 'write-sidecars', ?, '{}', '', '{\"mine\": []}')",
            (state,),
        )
        connection.execute(
            "INSERT INTO plan (id, shoot_id, kind, state, summary, made_at) "
            "VALUES (2, 1, 'write-sidecars', 'dropped', '{}', '')"
        )
        where = os.fsencode(folder / "a.xmp")
        connection.executemany(
            "INSERT INTO step (plan_id, frame_id, action, source, target, size, content, previous, state) "
            "VALUES (?, 1, 'write', ?, ?, ?, ?, ?, ?)",
            [(1, where, where, len(new), new, old, "done"), (2, where, where, len(new), new, old, "waiting")],
        )
    database = Database(path)
    (step,) = plans.steps(database.connection(), 1)
    assert step.content is step.previous is None
    assert (step.digest, step.previous_digest) == (sha256(new), sha256(old))
    undo = plans.undo_of(database.connection(), step)
    assert undo is not None and unpack_undo(undo) == (old, new)
    assert plans.get(database.connection(), 2) is None
    assert applying.reverse(database, 1) is PlanState.REVERSED
    assert (folder / "a.xmp").read_bytes() == old
