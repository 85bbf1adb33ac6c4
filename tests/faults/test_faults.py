"""A short round of every kind of fault; the long one is `python -m tests.faults`."""

from __future__ import annotations

import random
from collections.abc import Callable
from pathlib import Path

import pytest

from tests.faults import on_arrivals, on_meddling, on_plans, on_server
from tests.faults.tally import Tally


@pytest.mark.parametrize(
    ("scenario", "runs"),
    [
        (on_plans.killed, 10),
        (on_plans.filled, 4),
        (on_plans.pulled, 15),
        (on_plans.inside, 5),
        (on_plans.binned, 3),
        (on_meddling.meddled, 30),
        (on_arrivals.arriving, 4),
        (on_server.marking, 3),
        (on_server.scanning, 2),
    ],
)
def test_nothing_is_lost(
    scenario: Callable[[Path, random.Random, int], Tally], runs: int, tmp_path: Path
) -> None:
    tally = scenario(tmp_path, random.Random(runs), runs)
    assert tally.losses == []
    assert tally.runs == runs and tally.faults > 0
