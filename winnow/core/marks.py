"""Marks: what a person says of a frame, and how one mark becomes another."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from enum import StrEnum
from typing import Any, TypeAlias

from winnow.core.pairing import split_name
from winnow.core.words import can_be_written, languages_of, list_of, short

MAX_RATING = 5
MAX_LABEL_LENGTH = 80


class Decision(StrEnum):
    """The three-way state of a frame."""

    UNDECIDED = "undecided"
    KEEP = "keep"
    REJECT = "reject"


@dataclass(frozen=True, slots=True)
class Marks:
    """All marks of one frame. `rating` is 0 (unrated) to 5; `label` is the id of a label or None; `turn`: quarter
    turns clockwise, 0 to 3; caption, headline, keywords, creator, copyright: see `core.words`."""

    decision: Decision = Decision.UNDECIDED
    rating: int = 0
    label: str | None = None
    turn: int = 0
    caption: str | None = None
    headline: str | None = None
    keywords: str | None = None
    creator: str | None = None
    copyright: str | None = None

    def __post_init__(self) -> None:
        if not 0 <= self.rating <= MAX_RATING:
            raise ValueError(f"A rating is 0 to {MAX_RATING} stars, not {self.rating}.")
        if self.label is not None and not 0 < len(self.label) <= MAX_LABEL_LENGTH:
            raise ValueError(f"A label has 1 to {MAX_LABEL_LENGTH} characters.")
        if self.label is not None and not all(map(can_be_written, self.label)):
            raise ValueError("A label holds no control characters.")
        if self.turn not in range(4):
            raise ValueError(f"A picture is turned by 0 to 3 quarters, not {self.turn}.")


UNMARKED = Marks()


def clean_label(text: str) -> str | None:
    """A label as somebody else wrote it: line breaks become spaces, what cannot be printed goes; None if empty."""
    written = "".join(c if can_be_written(c) else " " if c.isspace() else "" for c in text)
    return written.strip()[:MAX_LABEL_LENGTH].strip() or None


class Field(StrEnum):
    """What a row of the journal changes: one field of the marks, a person's word on the group of a frame, its point
    that matters, or which of its marks are a proposal."""

    DECISION = "decision"
    RATING = "rating"
    LABEL = "label"
    TURN = "turn"
    CAPTION = "caption"
    HEADLINE = "headline"
    KEYWORDS = "keywords"
    CREATOR = "creator"
    COPYRIGHT = "copyright"
    GROUP = "group"
    POINT = "point"
    PROPOSED = "proposed"


WORD_FIELDS = (Field.CAPTION, Field.HEADLINE, Field.KEYWORDS, Field.CREATOR, Field.COPYRIGHT)
"""The fields of `Marks` that hold words."""

MARK_FIELDS = (Field.DECISION, Field.RATING, Field.LABEL, Field.TURN, *WORD_FIELDS)
"""The fields of `Marks`."""

Value: TypeAlias = str | int | None


@dataclass(frozen=True, slots=True)
class Change:
    """One field of one frame going from `before` to `after`."""

    frame_id: int
    field: Field
    before: Value
    after: Value

    def reversed(self) -> Change:
        return Change(self.frame_id, self.field, self.after, self.before)


def value_of(marks: Marks, field: Field) -> Value:
    """The value of one field as the journal stores it."""
    value: Value = getattr(marks, field.value)
    return str(value) if field is Field.DECISION else value


def with_value(marks: Marks, field: Field, value: Value) -> Marks:
    """`marks` with one field set. Raises ValueError for a value that the field cannot have."""
    match field:
        case Field.DECISION:
            return replace(marks, decision=Decision(str(value)))
        case Field.RATING:
            if not isinstance(value, int):
                raise ValueError(f"A rating is a whole number, not {value!r}.")
            return replace(marks, rating=value)
        case Field.LABEL:
            return replace(marks, label=None if value is None else str(value))
        case Field.TURN:
            if not isinstance(value, int):
                raise ValueError(f"A turn is a number of quarters, not {value!r}.")
            return replace(marks, turn=value)
        case Field.GROUP | Field.POINT | Field.PROPOSED:
            raise ValueError(f"The {field} of a frame is not one of its marks.")
        case _:
            words: dict[str, Any] = {field.value: None if value is None else str(value)}
            return replace(marks, **words)


STATES = {Decision.KEEP: "kept", Decision.REJECT: "rejected", Decision.UNDECIDED: "undecided"}
"""What a frame is once it is decided."""

TURNS = ("as it was taken", "turned right", "upside down", "turned left")
"""How a picture stands after so many quarter turns clockwise."""


Naming: TypeAlias = Callable[[str], str]
"""The name of a label, by its id."""


def in_words(field: Field, value: Value, name_of: Naming = str) -> str:
    """One mark as a person would say it."""
    if field is Field.DECISION:
        return STATES[Decision(str(value))]
    if field is Field.RATING:
        return "no stars" if not value else "1 star" if value == 1 else f"{value} stars"
    if field is Field.TURN:
        return TURNS[int(value or 0)]
    if field is Field.LABEL:
        return f"label {name_of(str(value))}" if value else "no label"
    if value is None:
        return f"no {field}"
    texts = languages_of(value).values() if field is Field.CAPTION else _items(field, value)
    return f"{field} “{short(', '.join(texts))}”"


def _items(field: Field, value: Value) -> list[str]:
    return list_of(value) if field in (Field.KEYWORDS, Field.CREATOR) else [str(value)]


def sentence(names: Sequence[str], count: int, values: Mapping[Field, Value], name_of: Naming = str) -> str:
    """What was done to frames, as a person would say it. names: of the frames, folder and extension included; count:
    how many there are, if only a part is named."""
    who = f"{count} frames"
    if count == 1 and names:
        who = f"frame {split_name(names[0].rpartition('/')[2])[0]}"
    return f"{who}: {', '.join(in_words(field, value, name_of) for field, value in values.items())}"


def changes_to(current: Mapping[int, Marks], wanted: Mapping[Field, Value]) -> list[Change]:
    """The changes that bring every frame of `current` to the `wanted` values.

    Frames that already have a value need no change for it, so a batch never holds an empty step
    and an undo never appears to do nothing.
    """
    changes = []
    for frame_id, marks in current.items():
        for field, after in wanted.items():
            before = value_of(marks, field)
            with_value(marks, field, after)
            if before != after:
                changes.append(Change(frame_id, field, before, after))
    return changes


def replay(changes: Iterable[Change]) -> dict[int, Marks]:
    """The marks that a journal, read from its start, leads to.

    Raises ValueError where a change does not start from the value that the ones before it left:
    such a journal has lost a row.
    """
    state: dict[int, Marks] = {}
    for change in changes:
        marks = state.get(change.frame_id, UNMARKED)
        if value_of(marks, change.field) != change.before:
            raise ValueError(
                f"Journal of frame {change.frame_id}: {change.field} was "
                f"{value_of(marks, change.field)!r}, the next row starts from {change.before!r}."
            )
        state[change.frame_id] = with_value(marks, change.field, change.after)
    return state
