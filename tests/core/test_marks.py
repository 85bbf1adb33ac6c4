"""Marks, history and journal replay."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from winnow.core.history import BatchKind, BatchRef, walk
from winnow.core.marks import (
    MARK_FIELDS,
    Change,
    Decision,
    Field,
    Marks,
    Value,
    changes_to,
    in_words,
    replay,
    sentence,
    with_value,
)
from winnow.core.xmp_marks import XmpMarks, from_xmp, to_xmp

marks = st.builds(
    Marks,
    st.sampled_from(Decision),
    st.integers(0, 5),
    st.none() | st.text("abcdefgh 5", min_size=1, max_size=10).map(str.strip).filter(bool),
)


def test_changes_hold_only_what_changes() -> None:
    current = {1: Marks(rating=3), 2: Marks(Decision.KEEP, 3)}
    found = changes_to(current, {Field.RATING: 3, Field.DECISION: "keep"})
    assert found == [Change(1, Field.DECISION, "undecided", "keep")]


def test_marks_that_cannot_be_are_refused() -> None:
    with pytest.raises(ValueError, match="0 to 5"):
        with_value(Marks(), Field.RATING, 6)
    with pytest.raises(ValueError):
        with_value(Marks(), Field.DECISION, "perhaps")
    with pytest.raises(ValueError, match="characters"):
        Marks(label="")


@given(st.lists(st.tuples(st.integers(1, 3), marks), max_size=20))
def test_journal_rebuilds_the_state(steps: list[tuple[int, Marks]]) -> None:
    state: dict[int, Marks] = {}
    journal: list[Change] = []
    for frame_id, wanted in steps:
        values = {field: getattr(wanted, field.value) for field in MARK_FIELDS}
        journal += changes_to({frame_id: state.get(frame_id, Marks())}, values)
        state[frame_id] = wanted
    rebuilt = replay(journal)
    assert {i: m for i, m in state.items() if m != Marks()} == {
        i: m for i, m in rebuilt.items() if m != Marks()
    }


def test_a_lost_row_is_noticed() -> None:
    with pytest.raises(ValueError, match="Journal of frame 1"):
        replay([Change(1, Field.RATING, 2, 3)])


@given(st.lists(st.sampled_from(["mark", "undo", "redo", "import"]), max_size=40))
def test_walk_agrees_with_two_stacks_of_states(actions: list[str]) -> None:
    """A model with whole states instead of batches: undo must always lead to the state before."""
    batches: list[BatchRef] = []
    past: list[int] = []
    future: list[int] = []
    for number, action in enumerate(actions, 1):
        if action == "mark":
            batches.append(BatchRef(number, BatchKind.MARK))
            past.append(number)
            future.clear()
        elif action == "import":
            batches.append(BatchRef(number, BatchKind.IMPORT))
        elif action == "undo" and past:
            future.append(past.pop())
            batches.append(BatchRef(number, BatchKind.UNDO, future[-1]))
        elif action == "redo" and future:
            past.append(future.pop())
            batches.append(BatchRef(number, BatchKind.REDO, past[-1]))
    found = walk(batches)
    assert found.undo == (past[-1] if past else None)
    assert found.redo == (future[-1] if future else None)


# Source: XMP Specification Part 2, xmp:Rating −1 rejected, 0 unrated, 1–5.
@pytest.mark.parametrize(
    ("wanted", "rating"),
    [
        (Marks(), 0),
        (Marks(rating=4), 4),
        (Marks(Decision.KEEP, 2), 2),
        (Marks(Decision.REJECT), -1),
        (Marks(Decision.REJECT, 3), -1),
    ],
)
def test_rating_as_the_standard_writes_it(wanted: Marks, rating: int) -> None:
    assert to_xmp(wanted).rating == rating


@given(marks)
def test_marks_survive_xmp(wanted: Marks) -> None:
    assert from_xmp(to_xmp(wanted)) == wanted


def test_the_standard_property_wins_over_ours() -> None:
    """Another program took the reject back and gave two stars: our own note of it is out of date."""
    assert from_xmp(XmpMarks(rating=2, decision="reject", stars=4)) == Marks(rating=2)
    assert from_xmp(XmpMarks(rating=-1, decision="keep")) == Marks(Decision.REJECT)


def test_a_keeper_by_its_earlier_name() -> None:
    assert from_xmp(XmpMarks(rating=3, decision="pick")) == Marks(Decision.KEEP, 3)


def test_stars_alone_make_no_keeper() -> None:
    assert from_xmp(XmpMarks(rating=5)) == Marks(Decision.UNDECIDED, 5)


@pytest.mark.parametrize(
    ("field", "value", "said"),
    [
        (Field.DECISION, "keep", "kept"),
        (Field.DECISION, "undecided", "undecided"),
        (Field.RATING, 0, "no stars"),
        (Field.RATING, 1, "1 star"),
        (Field.RATING, 2, "2 stars"),
        (Field.LABEL, "x", "label X"),
        (Field.LABEL, None, "no label"),
        (Field.TURN, 0, "as it was taken"),
        (Field.TURN, 3, "turned left"),
        (Field.CAPTION, '{"en": "Bowls", "x-default": "Bowls"}', "caption “Bowls, Bowls”"),
        (Field.KEYWORDS, '["kiln", "salt"]', "keywords “kiln, salt”"),
        (Field.HEADLINE, "Fired", "headline “Fired”"),
        (Field.CREATOR, None, "no creator"),
    ],
)
def test_marks_in_words(field: Field, value: Value, said: str) -> None:
    assert in_words(field, value, str.upper) == said
    assert sentence(["a/B_0001.JPG"], 1, {field: value}, str.upper) == f"frame B_0001: {said}"
    assert sentence(["a/B_0001.JPG"], 2, {field: value}, str.upper) == f"2 frames: {said}"
    assert sentence([], 0, {field: value}, str.upper) == f"0 frames: {said}"
