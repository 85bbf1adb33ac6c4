"""Patterns of names, held against the standard library's (fnmatch), and what they cost at worst."""

from __future__ import annotations

import time
from fnmatch import fnmatchcase

from hypothesis import given
from hypothesis import strategies as st

from winnow.core.globs import name_pattern


@given(st.text("ab.*?", min_size=1, max_size=12), st.text("ab.", min_size=1, max_size=12))
def test_patterns_mean_what_they_mean_elsewhere(pattern: str, name: str) -> None:
    stem, dot, _ = name.rpartition(".")
    expected = fnmatchcase(name, pattern) or bool(dot and fnmatchcase(stem, pattern))
    assert name_pattern(pattern)(name) is expected


def test_a_slash_makes_it_a_pattern_of_the_path() -> None:
    assert name_pattern("100*/tmn_*")("100winno/tmn_0001.jpg")
    assert not name_pattern("tmn_*")("tmn_0001/other.jpg")


def test_many_stars_cost_no_more_than_a_few() -> None:
    """Ten times the length takes ten times as long, not ten to the power of the stars."""

    def cost(length: int) -> float:
        fits = name_pattern("*a" * 20 + "b")
        start = time.perf_counter()
        for _ in range(200):
            assert not fits("a" * length)
        return time.perf_counter() - start

    few, many = min(cost(60) for _ in range(3)), min(cost(600) for _ in range(3))
    assert many < 100 * few
