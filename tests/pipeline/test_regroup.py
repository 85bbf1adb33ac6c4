"""Groups worked out while a person says otherwise."""

from __future__ import annotations

import threading
from pathlib import Path

import numpy as np
import pytest

from tests import photographs
from winnow.api.desk import Desk, now
from winnow.core.faces.people import Seen
from winnow.core.group_edits import Word
from winnow.core.grouping import Grouped
from winnow.pipeline import grouping
from winnow.pipeline.engine import wait_until_idle
from winnow.pipeline.grouping import GroupingMemory, regroup
from winnow.store import frames, marks, shoots


def say(desk: Desk, shoot_id: int, frame_id: int, word: Word | None) -> None:
    with desk.database.transaction() as connection:
        marks.set_words(connection, shoot_id, {frame_id: word}, actor="person", title="t", now=now())


@pytest.mark.parametrize("times", [1, 5])
def test_a_split_made_meanwhile_stands(
    desk: Desk, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, times: int
) -> None:
    """Said in the very moment between reading and writing; five times, as fast as groups are worked out."""
    for n in range(6):
        photographs.save(tmp_path / "s" / f"{n}.JPG", 0, second=n)
    shoot_id = desk.open_folder(str(tmp_path / "s"))
    wait_until_idle(desk.engine)
    ids = [row["id"] for row in frames.summaries(desk.database.connection(), shoot_id)]
    real, said = grouping.group_shots, []

    def slow(*arguments: object) -> object:
        found = real(*arguments)  # type: ignore[arg-type]
        if len(said) < min(times, grouping.TRIES):  # the last try keeps others from writing
            thread = threading.Thread(target=say, args=(desk, shoot_id, ids[1 + len(said)], Word(None)))
            thread.start()
            thread.join(20)
            said.append(thread.is_alive())
        return found

    say(desk, shoot_id, ids[0], Word(None))  # something that groups rest on
    monkeypatch.setattr(grouping, "group_shots", slow)
    regroup(desk.database, shoot_id, GroupingMemory())
    assert said and not any(said), "a person was kept waiting while groups were worked out"
    groups = [row["group"] for row in frames.summaries(desk.database.connection(), shoot_id)]
    splits = len(said)
    assert groups == [*range(splits + 1), *[splits] * (6 - splits - 1)]


def test_what_rests_on_nothing_new_stays(desk: Desk, tmp_path: Path) -> None:
    """Opening a large shoot again took minutes, and everybody who looked on fetched all of it again."""
    for n in range(4):
        photographs.save(tmp_path / "s" / f"{n}.JPG", 0, second=n)
    shoot_id = desk.open_folder(str(tmp_path / "s"))
    wait_until_idle(desk.engine)
    connection = desk.database.connection()

    def stored() -> tuple[object, ...]:
        shoot = shoots.get(connection, shoot_id)
        judged = connection.execute("SELECT judgement FROM evidence ORDER BY frame_id").fetchall()
        return shoot and shoot.revision, [row[0] for row in judged]

    before = stored()
    regroup(desk.database, shoot_id, GroupingMemory())
    assert stored() == before and None not in before[1]  # type: ignore[operator]
    for changed in (
        "UPDATE evidence SET judgement = NULL, judged_as = NULL WHERE frame_id % 2",  # measured again
        "UPDATE frame SET captured_at = '2026-10-18T09:00:00' WHERE id % 2",
        "UPDATE frame SET place = 'held' WHERE id % 2",
    ):
        with desk.database.transaction() as writing:
            writing.execute(changed)
        regroup(desk.database, shoot_id, GroupingMemory())
        assert stored()[0] != before[0] and None not in stored()[1]  # type: ignore[operator]
        before = stored()


def test_nobody_is_numbered_anew_because_somebody_is_found_in_another_scene() -> None:
    """Else every frame after that would change, and be fetched again, while a shoot is measured."""
    ordered = [Grouped(frame, frame // 3, frame // 3, False) for frame in (1, 2, 3, 4)]
    face = Seen(0.5, 0.5, 0.1, np.full((3, 3), 50, np.float32))
    before = grouping._people(ordered, {1: [], 2: [], 3: [face], 4: [face]})
    after = grouping._people(ordered, {1: [face], 2: [face], 3: [face], 4: [face]})
    assert before[3] == before[4] == after[3] != []
    assert after[1] == after[2] != after[3], "people of two scenes are not one"
