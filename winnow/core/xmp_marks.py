"""What marks mean in XMP, and what XMP means in marks.

Source: XMP Specification Part 2 (`xmp:Rating` −1 rejected, 0 unrated, 1–5; `xmp:Label` free text).
The standard has no word for a keeper, and a rejected frame has nowhere to keep its stars. Both go
into two properties of our own, which other programs keep and ignore. The standard property is the
one that counts: when another program has changed it, ours is out of date and not believed.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from winnow.core.marks import MAX_RATING, WORD_FIELDS, Decision, Field, Marks, Value, clean_label, value_of
from winnow.core.orientation import turn_between, turned

REJECTED_RATING = -1
_KEPT = (Decision.KEEP, "pick")
"""And what Winnow called it once: sidecars outlive names."""


@dataclass(frozen=True, slots=True)
class XmpMarks:
    """The properties that carry marks. None: the property is not there. Those of words are as marks hold them."""

    rating: int | None = None  # xmp:Rating
    label: str | None = None  # xmp:Label
    decision: str | None = None  # winnow:Decision
    stars: int | None = None  # winnow:Stars
    orientation: int | None = None  # tiff:Orientation
    caption: str | None = None  # dc:description
    headline: str | None = None  # photoshop:Headline
    keywords: str | None = None  # dc:subject
    creator: str | None = None  # dc:creator
    copyright: str | None = None  # dc:rights


def to_xmp(marks: Marks, orientation: int | None = None) -> XmpMarks:
    """The properties that say `marks`. orientation: Exif code of the picture; None: how it is turned is not said."""
    rejected = marks.decision is Decision.REJECT
    return XmpMarks(
        rating=REJECTED_RATING if rejected else marks.rating,
        label=marks.label,
        decision=None if marks.decision is Decision.UNDECIDED else marks.decision.value,
        stars=marks.rating if rejected and marks.rating else None,
        orientation=turned(orientation, marks.turn) if orientation and marks.turn else None,
        **_words(marks),
    )


def from_xmp(found: XmpMarks, orientation: int | None = None) -> Marks:
    """The marks that the properties say. A rating alone makes no keeper: nobody said so. orientation: Exif code of
    the picture; None: what they say of it is not heard."""
    turn = turn_between(orientation, found.orientation) if orientation and found.orientation else 0
    rating = found.rating or 0
    label = clean_label(found.label or "")
    words = _words(found)
    if rating < 0:
        stars = found.stars if found.decision == Decision.REJECT and found.stars else 0
        return Marks(Decision.REJECT, _clamp(stars), label, turn, **words)
    kept = found.decision in _KEPT
    return Marks(Decision.KEEP if kept else Decision.UNDECIDED, _clamp(rating), label, turn, **words)


def stated(found: XmpMarks, orientation: int | None = None) -> dict[Field, Value]:
    """The fields that properties speak of, with what they say. A packet without a rating says nothing of stars."""
    marks = from_xmp(found, orientation)
    said: dict[Field, Value] = {}
    if found.rating is not None or found.decision is not None:
        said[Field.DECISION] = value_of(marks, Field.DECISION)
        said[Field.RATING] = marks.rating
    if found.label is not None:
        said[Field.LABEL] = marks.label
    if orientation and found.orientation:
        said[Field.TURN] = marks.turn
    for field in WORD_FIELDS:
        if (text := value_of(marks, field)) is not None:
            said[field] = text
    return said


def _words(found: Marks | XmpMarks) -> dict[str, Any]:
    return {field.value: getattr(found, field.value) for field in WORD_FIELDS}


def _clamp(rating: int) -> int:
    return max(0, min(MAX_RATING, rating))
