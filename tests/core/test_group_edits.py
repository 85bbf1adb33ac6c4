"""What a person says of groups, and that it wins over what is measured, beside a second camera too."""

from __future__ import annotations

import pytest

from winnow.core.group_edits import Regrouping, Word, words_for
from winnow.core.grouping import Shot, group_shots

SHOTS = [Shot(n, float(n), "A") for n in range(1, 5)] + [Shot(n, 40.0 + n, "A") for n in range(5, 7)]
"""Four frames a second apart, two more half a minute later: two groups by their times alone."""


def grouped(said: dict[int, Word], shots: list[Shot] = SHOTS) -> list[list[int]]:
    groups: dict[int, list[int]] = {}
    for placed in group_shots(shots, said):
        groups.setdefault(placed.group, []).append(placed.frame_id)
    return list(groups.values())


def edited(action: Regrouping, frame: int, said: dict[int, Word] | None = None) -> dict[int, Word]:
    """All that was said after one more action."""
    before = said or {}
    placed = [(frame_id, n) for n, group in enumerate(grouped(before)) for frame_id in group]
    words = words_for(action, frame, placed, before)
    return {k: word for k, word in {**before, **words}.items() if word is not None}


def test_what_is_done_is_what_comes_out() -> None:
    assert grouped({}) == [[1, 2, 3, 4], [5, 6]]
    assert grouped(edited(Regrouping.SPLIT, 3)) == [[1, 2], [3, 4], [5, 6]]
    assert grouped(edited(Regrouping.JOIN_NEXT, 2)) == [[1, 2, 3, 4, 5, 6]]
    assert grouped(edited(Regrouping.TO_NEXT, 4)) == [[1, 2, 3], [4, 5, 6]]
    assert grouped(edited(Regrouping.TO_NEXT, 2)) == [[1, 3, 4], [2, 5, 6]]
    assert grouped(edited(Regrouping.TO_PREVIOUS, 5)) == [[1, 2, 3, 4, 5], [6]]
    assert grouped(edited(Regrouping.TO_PREVIOUS, 6)) == [[1, 2, 3, 4, 6], [5]]


def test_one_after_another() -> None:
    said = edited(Regrouping.SPLIT, 3)
    said = edited(Regrouping.TO_NEXT, 4, said)
    assert grouped(said) == [[1, 2], [3], [4, 5, 6]]
    said = edited(Regrouping.AS_MEASURED, 4, said)
    assert grouped(said)[-1] == [5, 6]


def test_words_lead_to_a_frame_and_not_to_what_another_camera_shot_between() -> None:
    between = sorted([*SHOTS, Shot(9, 30.0, "B")], key=lambda shot: shot.seconds or 0)
    assert grouped({5: Word(1), 6: Word(1)}, between) == [[1, 2, 3, 4, 5, 6], [9]]


@pytest.mark.parametrize(
    ("action", "frame"),
    [
        (Regrouping.SPLIT, 1),
        (Regrouping.JOIN_NEXT, 5),
        (Regrouping.TO_PREVIOUS, 2),
        (Regrouping.AS_MEASURED, 1),
    ],
)
def test_what_would_change_nothing_says_so(action: Regrouping, frame: int) -> None:
    with pytest.raises(ValueError, match=r"\."):
        edited(action, frame)


def test_words_are_kept_as_text() -> None:
    for word in (Word(None), Word(12)):
        assert Word.parse(str(word)) == word
