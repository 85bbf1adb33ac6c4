"""Two cameras on the demo shoot: what their frames say of their clocks, and who is in them."""

from __future__ import annotations

import shutil
from collections import defaultdict
from pathlib import Path

import pytest

from tests.pipeline.test_pipeline import prepared
from tests.truth import frames as truth_frames
from winnow.api.desk import Desk
from winnow.demo import second_body
from winnow.demo.layout import lay_out
from winnow.pipeline import clocks

TOGETHER = [*range(462, 469), *range(528, 535)]
"""Two across the table, and the group photo, by the first body."""


@pytest.fixture(scope="module")
def laid_out(tmp_path_factory: pytest.TempPathFactory) -> Path:
    return lay_out(tmp_path_factory.mktemp("demo"))


def taken(laid_out: Path, folder: Path, second: list[str]) -> Path:
    names = [f"101TARN/TRN_{n:04d}.JPG" for n in TOGETHER]
    for name in names + [f"{second_body.BODY}/{name}.JPG" for name in second]:
        (folder / name).parent.mkdir(parents=True, exist_ok=True)
        shutil.copy2(laid_out / name, folder / name)
    return folder


def test_the_shift_of_the_second_clock_is_right_to_the_second(
    desk: Desk, tmp_path: Path, laid_out: Path
) -> None:
    """Against the truth of the demo shoot: its clock, and which frames show one moment."""
    others = [f"TMN_{n:04d}" for n in range(105, 110)]  # June and Bibi, by the second body alone
    folder = taken(laid_out, tmp_path / "two", [*second_body.MOMENTS, *others])
    rows = prepared(desk, folder)
    names = {row["id"]: Path(name).stem for name, row in rows.items()}
    connection = desk.database.connection()
    (found,) = clocks.suggested(connection, 1)
    assert abs(found.ahead_s - second_body.CLOCK_S) < 1
    assert {names[pair.other]: names[pair.one] for pair in found.pairs} == second_body.MOMENTS
    # The people of a scene: nobody is taken for somebody else.
    truth = truth_frames()
    shown: dict[int, list[set[str]]] = defaultdict(list)
    for name, people in connection.execute("SELECT name, people FROM frame WHERE people <> ''"):
        there = {one.name for one in truth[name].people} if name in truth else set()
        for number in map(int, people.split()):
            shown[number] += [there] if there else []
    assert all(set.intersection(*some) for some in shown.values() if some)
    assert len(shown) >= 5


def test_frames_of_different_moments_say_nothing(desk: Desk, tmp_path: Path, laid_out: Path) -> None:
    prepared(desk, taken(laid_out, tmp_path / "two", [f"TMN_{n:04d}" for n in range(105, 115)]))
    assert clocks.suggested(desk.database.connection(), 1) == []
