"""Groups worked out while a person says otherwise."""

from __future__ import annotations

import threading
from pathlib import Path

import pytest

from tests import photographs
from winnow.api.desk import Desk, now
from winnow.core.group_edits import Word
from winnow.pipeline import grouping
from winnow.pipeline.engine import wait_until_idle
from winnow.pipeline.grouping import GroupingMemory, regroup
from winnow.store import frames, marks


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

    monkeypatch.setattr(grouping, "group_shots", slow)
    regroup(desk.database, shoot_id, GroupingMemory())
    assert said and not any(said), "a person was kept waiting while groups were worked out"
    groups = [row["group"] for row in frames.summaries(desk.database.connection(), shoot_id)]
    splits = len(said)
    assert groups == [*range(splits + 1), *[splits] * (6 - splits - 1)]
