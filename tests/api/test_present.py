"""Who is in a shoot, as long as they say so."""

from __future__ import annotations

import time

import pytest

from winnow.api.present import LASTS_S, STAYS_S, Companion, Present


def test_a_page_in_the_background_is_not_shown_and_does_not_come_in_anew(
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    present, now = Present(), 1000.0
    monkeypatch.setattr(time, "monotonic", lambda: now)
    here, there = Companion("a", "Mia", 1, "wall"), Companion("b", "", 2, "bench")
    assert not present.is_here(1, "a")
    assert present.say(1, here) == [] and present.say(1, there) == [here]
    now += LASTS_S + 1
    assert present.say(1, there) == []
    assert present.is_here(1, "a") and not present.is_here(2, "a")
    now += STAYS_S
    assert not present.is_here(1, "a")
    present.say(1, here)
    present.leave(1, "a")
    assert not present.is_here(1, "a")
