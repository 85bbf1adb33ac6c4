"""What cannot be is refused with a reason, wherever it comes from: a file, another machine, a typing error."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import pytest

from tests.asking import Made, ground_of
from winnow.core import passes, vocabulary
from winnow.core.capture import from_tags
from winnow.core.facets.kinds import Span
from winnow.core.file_names import Naming, names
from winnow.core.history import BatchKind, BatchRef, walk
from winnow.core.labels import FIRST, MOST_LABELS, Colour, Label, LabelSet, Shape
from winnow.core.marks import (
    MARK_FIELDS,
    MAX_LABEL_LENGTH,
    UNMARKED,
    Field,
    Marks,
    clean_label,
    value_of,
    with_value,
)
from winnow.core.passes import OURS
from winnow.core.proof import Proof
from winnow.core.sentence import parse
from winnow.core.tokens import About, fill
from winnow.core.words import WordsChange


def label(name: str, **more: Any) -> Label:
    return Label(name, name, more.pop("meaning", ""), Colour.SKY, Shape.DISC, **more)


def one_pass(**changed: Any) -> passes.Pass:
    content = passes.as_json(OURS[0]) | changed
    return passes.from_json({name: value for name, value in content.items() if value is not None})


@pytest.mark.parametrize(
    ("make", "told"),
    [
        (lambda: Marks(turn=4), "0 to 3 quarters, not 4"),
        (lambda: Marks(label="x" * (MAX_LABEL_LENGTH + 1)), "characters"),
        (lambda: Marks(label=""), "characters"),
        (lambda: Marks(rating=-1), "-1"),
        (lambda: Marks(rating=6), "6"),
        (lambda: with_value(UNMARKED, Field.RATING, "x"), "a whole number, not 'x'"),
        (lambda: with_value(UNMARKED, Field.TURN, "x"), "a number of quarters"),
        (lambda: with_value(UNMARKED, Field.POINT, "1 2"), "not one of its marks"),
        (lambda: LabelSet(tuple(label(f"L{n}") for n in range(MOST_LABELS + 1))), "cannot be told apart"),
        (lambda: LabelSet((label(" Print"),)), "begins or ends with a space"),
        (lambda: LabelSet((label("Print", meaning="x" * 301),)), "at most 300 characters"),
        (lambda: LabelSet((label("Print", key="pp"),)), "one character"),
        (lambda: Span(None, None), "at least one end"),
        (lambda: parse("x" * 2001, FIRST), "at most 2000 characters"),
        (lambda: parse(", ".join(["keepers"] * 31), FIRST), "at most 30 parts"),
        (lambda: parse(" or ".join(["3 stars"] * 61), FIRST), "at most 60 alternatives"),
        (lambda: parse('name ""', FIRST), "Which name"),
        (lambda: parse('camera ""', FIRST), "Which camera"),
        (lambda: parse('keyword ""', FIRST), "Which keyword"),
        (lambda: parse("at 25:00–26:00", FIRST), "no time of day"),
        (lambda: parse("50–85 mm or more", FIRST), "two ends already"),
        (lambda: Naming("x" * 201), "at most 200 characters"),
        (lambda: Naming("x{counter}", step=0), "goes up"),
        (lambda: one_pass(question=" "), "The question of a pass"),
        (lambda: one_pass(question=None), "It has no question"),
        (lambda: one_pass(keys=[7]), "A key says what it 'does'"),
        (lambda: one_pass(keys="a"), "'keys' is a list"),
        (lambda: Proof(" "), "Give the proof set a title"),
        (lambda: Proof("Kiln", note="x" * 2001), "at most 2000 characters"),
        (lambda: vocabulary.read("\n".join(f"w{n}" for n in range(100_001))), "at most 100,000 words"),
        (lambda: walk([BatchRef(1, BatchKind.UNDO)]), "is an undo of nothing"),
    ],
)
def test_a_reason_is_given(make: Callable[[], object], told: str) -> None:
    with pytest.raises(ValueError, match=told) as caught:
        make()
    assert str(caught.value)


def test_marks_that_were_there_before_the_first_key_are_no_action() -> None:
    assert walk([BatchRef(1, BatchKind.IMPORT), BatchRef(2, BatchKind.MARK)]).done == (2,)


def test_rated_is_one_star_or_more() -> None:
    rated = parse("rated", FIRST).mask(ground_of([Made(), Made(rating=1), Made(rating=5)]))
    assert rated.tolist() == [False, True, True]


def test_texts_of_files_that_are_bytes_or_mean_nothing() -> None:
    """Exif ImageUniqueID (CIPA DC-008, 4.6.5): 32 hexadecimal digits; cameras that have none write zeros."""
    found = from_tags({"ImageUniqueID": "00af" * 8, "Make": b"Tarn", "Model": b"One"})
    assert (found.image_id, found.camera) == ("00af" * 8, "Tarn One")
    assert from_tags({"ImageUniqueID": "0" * 32}).image_id is None


def test_names_without_a_date_and_counters_for_all() -> None:
    about = About(None, "", "Kiln", 1, "a", 1)
    assert fill("{date}{name}", about) == "a"
    assert names(Naming("n{counter:2}"), [about, about]) == ["n01", "n02"]


def test_keywords_that_go_are_said() -> None:
    assert WordsChange(removed=("kiln", "glaze")).said() == "keywords − kiln, glaze"


def test_labels_as_others_wrote_them() -> None:
    longest = "x" * MAX_LABEL_LENGTH
    assert clean_label(longest + "y") == longest == Marks(label=longest).label
    assert LabelSet((label("Grün"),)).name_of("GRU\u0308N") == "Grün"  # composed otherwise
    assert clean_label("Print\nlarge\x07 ") == "Print large" and clean_label(" \x00") is None


@pytest.mark.parametrize("field", MARK_FIELDS)
def test_what_nobody_marked_stays_so(field: Field) -> None:
    assert with_value(UNMARKED, field, value_of(UNMARKED, field)) == UNMARKED
