"""Marks here and in files, held against what both sides agreed on: every case of a three-way merge of one property
(Khanna, Kunal & Pierce, *A formal investigation of diff3*, FSTTCS 2007, from memory)."""

from __future__ import annotations

import pytest

from winnow.core.agreement import Source, read_in, write_out
from winnow.core.marks import UNMARKED, Decision, Field, Marks
from winnow.core.xmp_marks import XmpMarks, to_xmp


def source(found: XmpMarks, path: str = "a.xmp", kind: str = "sidecar") -> Source:
    return Source(path, kind, "digest", "2026-01-01T00:00:00+00:00", found)


@pytest.mark.parametrize(
    ("base", "here", "there", "standing", "taken", "differs"),
    [
        (0, 0, 5, False, True, False),  # theirs is new
        (5, 5, 3, False, True, False),  # changed there, nobody marked here
        (5, 2, 5, True, False, False),  # changed here
        (5, 2, 3, True, False, True),  # changed on both sides
        (0, 2, 3, True, False, True),  # marked on both sides, never agreed
        (5, 3, 3, True, False, False),  # the same on both sides
        (5, 0, 5, False, False, False),  # undone here, nothing new there
        (5, 0, 4, False, True, False),  # undone here, changed there: no mark of a person stands
        (4, 2, 0, True, False, True),  # cleared there, changed here
        (4, 4, 0, False, True, False),  # cleared there
        (2, 2, 4, True, True, False),  # both had agreed on the person's mark, and only theirs changed
    ],
)
def test_stars_are_read_in(
    base: int, here: int, there: int, standing: bool, taken: bool, differs: bool
) -> None:
    reading = read_in(
        [source(XmpMarks(rating=there))],
        {"a.xmp": Marks(rating=base)},
        Marks(rating=here),
        {Field.RATING} if standing else set(),
    )
    assert (Field.RATING in reading.take, Field.RATING in reading.differ) == (taken, differs)
    # A value that nobody agreed on must not pass for agreed the next time.
    assert reading.agreed["a.xmp"].rating == (base if differs else there)


def test_a_property_that_is_not_there_says_nothing() -> None:
    """A sidecar of development settings alone does not reset the stars inside the file."""
    inside = source(XmpMarks(rating=4, label="Album"), "a.jpg", "embedded")
    reading = read_in([source(XmpMarks()), inside], {}, UNMARKED, set())
    assert {f: v for f, (v, _) in reading.take.items()} == {Field.RATING: 4, Field.LABEL: "Album"}
    again = read_in(
        [source(XmpMarks()), inside], {"a.jpg": Marks(rating=4, label="Album")}, Marks(rating=4), set()
    )
    assert again.take == {}
    both = read_in([source(XmpMarks(rating=2)), inside], {}, UNMARKED, set())
    assert both.take[Field.RATING][0] == 2 and both.take[Field.LABEL][0] == "Album"


def test_a_property_that_is_gone_is_cleared() -> None:
    before = {"a.xmp": Marks(rating=4)}
    assert read_in([source(XmpMarks())], before, Marks(rating=4), set()).take[Field.RATING][0] == 0


ALL = frozenset(Field)


@pytest.mark.parametrize(
    ("base", "here", "there", "standing", "written", "conflict"),
    [
        (0, 3, 0, True, 3, False),
        (5, 2, 5, True, 2, False),
        (2, 3, 5, True, 5, True),  # 5 stars that another program gave do not become 3
        (2, 2, 5, True, 5, False),  # changed there alone
        (2, 2, 5, False, 5, False),
        (3, 0, 3, False, 0, False),  # undone here after it was written
        (4, 4, 4, True, 4, False),
    ],
)
def test_stars_are_written_out(
    base: int, here: int, there: int, standing: bool, written: int, conflict: bool
) -> None:
    merge = write_out(
        Marks(rating=there), Marks(rating=base), Marks(rating=here), ALL if standing else frozenset()
    )
    assert merge.marks.rating == written
    assert (Field.RATING in merge.conflicts) is conflict


def test_the_person_may_choose_their_own() -> None:
    theirs, ours = Marks(rating=5, label="Album"), Marks(Decision.REJECT, 2, "Print")
    merge = write_out(theirs, UNMARKED, ours, ALL, {Field.RATING})
    assert merge.marks == Marks(Decision.REJECT, 2, "Album")
    assert set(merge.conflicts) == {Field.RATING, Field.LABEL}
    assert to_xmp(merge.marks).rating == -1
