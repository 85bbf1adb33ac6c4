"""What a pass is, what frames start as, and what a file may say of it."""

from __future__ import annotations

import json
from dataclasses import replace

import pytest

from winnow.core.labels import FIRST
from winnow.core.marks import Decision, Field
from winnow.core.passes import (
    CHOOSE,
    OURS,
    RATE,
    RESCUE,
    WEED,
    Asked,
    as_json,
    checked,
    from_json,
    queue,
    read,
    starting,
    written,
)

KEEP, REJECT, UNDECIDED = Decision.KEEP, Decision.REJECT, Decision.UNDECIDED


def test_ours_can_be_understood_and_come_back_from_a_file() -> None:
    assert [one.name for one in OURS] == ["Weed", "Choose", "Rate", "Sort", "Rescue", "Check"]
    assert read(written(OURS), FIRST) == ([*OURS], [])
    for one in OURS:
        assert checked(one, FIRST) is one
    assert WEED.fields == CHOOSE.fields == {Field.DECISION} and RATE.fields == {Field.RATING}


def test_what_frames_start_as() -> None:
    frames = [Asked(1, 1, UNDECIDED), Asked(2, 1, KEEP), Asked(3, 2, UNDECIDED, warned=True)]
    assert starting(WEED, frames) == {1: KEEP, 3: KEEP}
    assert starting(RATE, frames) == {}
    # What only a pass kept is open again where others compete with it; what a person kept is not, nor what is alone.
    frames = [Asked(1, 1, KEEP, by_start=True), Asked(2, 1, KEEP), Asked(3, 2, KEEP, by_start=True)]
    assert starting(CHOOSE, frames) == {1: UNDECIDED}


def test_frames_with_warnings_can_come_first_where_it_goes_by_frames() -> None:
    frames = [Asked(1, 1, KEEP), Asked(2, 1, KEEP, warned=True), Asked(3, 2, KEEP)]
    assert queue(WEED, frames) == [1, 2, 3]
    assert queue(replace(WEED, warned_first=True), frames) == [2, 1, 3]
    assert queue(replace(CHOOSE, warned_first=True), frames) == [1, 2, 3]


@pytest.mark.parametrize(
    ("change", "said"),
    [
        ({"version": 2}, "version 2"),
        ({"keys": ["keep", "fly"]}, "not 'fly'"),
        ({"keys": ["keep", "keep"]}, "twice"),
        ({"keys": []}, "1 to 30 keys"),
        ({"order": "backwards"}, "frame by frame"),
        ({"full": "yes"}, "yes or no"),
        ({"scope": "unicorns"}, "nothing that can be asked for"),
        ({"keys": ["stars"], "bulk": ["warned"]}, "a key to reject"),
        ({"colour": "red"}, "colour"),
        ({"name": "  "}, "1 to 60"),
        ({"name": "weed"}, "one of Winnow's own"),
    ],
)
def test_what_does_not_fit_is_named_and_the_rest_is_taken(change: dict[str, object], said: str) -> None:
    mine = {**as_json(RESCUE), "name": "Mine"}
    text = json.dumps({"passes": [mine | change, mine | {"name": "Other"}]})
    found, misfits = read(text, FIRST, [one.name for one in OURS])
    assert [one.name for one in found] == ["Other"]
    assert len(misfits) == 1 and said in misfits[0], misfits


@pytest.mark.parametrize("text", ["", "[]", '{"passes": 3}', "[" * 100_000, "null"])
def test_what_holds_no_passes_is_refused(text: str) -> None:
    with pytest.raises(ValueError, match=r"passes|JSON"):
        read(text, FIRST)
    with pytest.raises(ValueError):
        from_json(text)
