"""Lists of frames: which columns they can have, and what stands in them."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from winnow.core.labels import LabelSet
from winnow.core.marks import STATES, WORD_FIELDS, Decision
from winnow.core.warned import IN_WORDS, Warned
from winnow.core.words import parts

Cell = str | int | float | None
"""What stands in a column of a frame; None: not known, or there is none."""


@dataclass(frozen=True, slots=True)
class Column:
    """id: as it is asked for, and as JSON calls it; title: over the column; of: what stands in it, from all that is
    known of a frame (by name of the database's column)."""

    id: str
    title: str
    of: Callable[[Mapping[str, Any], LabelSet], Cell]


def _plain(id: str, title: str, name: str | None = None) -> Column:
    return Column(id, title, lambda known, _: known[name or id])


def _words(id: str) -> Column:
    return Column(id, id.capitalize(), lambda known, _: _said(id, known[id]))


def _said(field: str, held: str | None) -> str | None:
    """Of a caption the text in no particular language, of a list its items with a semicolon between."""
    if held is None:
        return None
    said = parts(field, held)
    return said[0] if field == "caption" else "; ".join(said)


COLUMNS: tuple[Column, ...] = (
    _plain("name", "File"),
    _plain("captured_at", "Taken"),
    Column("scene", "Scene", lambda known, _: known["scene"] + 1),
    Column("group", "Group", lambda known, _: known["frame_group"] + 1),
    Column("lead", "Leads its group", lambda known, _: "yes" if known["lead"] else ""),
    Column("decision", "Decision", lambda known, _: STATES[Decision(known["decision"])]),
    _plain("rating", "Rating"),
    Column("label", "Label", lambda known, labels: known["label"] and labels.name_of(known["label"])),
    _plain("proposed", "Only proposed"),
    _plain("sigma", "Blur at the subject, px"),
    Column(
        "warnings",
        "Look at",
        lambda known, _: ", ".join(IN_WORDS[Warned(one)] for one in known["warnings"].split()),
    ),
    _plain("faces", "Faces"),
    _plain("camera", "Camera"),
    _plain("serial", "Serial number"),
    _plain("lens", "Lens"),
    _plain("focal_mm", "Focal length, mm"),
    _plain("aperture", "Aperture"),
    _plain("shutter_s", "Shutter, s"),
    _plain("iso", "ISO"),
    _plain("width", "Width, px"),
    _plain("height", "Height, px"),
    *map(_words, WORD_FIELDS),
)
BY_ID = {column.id: column for column in COLUMNS}
USUAL = ("name", "captured_at", "decision", "rating", "label", "proposed", "caption", "keywords")
"""The columns of a list for which none are named."""


def columns_of(ids: Sequence[str]) -> list[Column]:
    """Columns by their ids, in that order. Raises ValueError for one that there is not."""
    for one in ids:
        if one not in BY_ID:
            raise ValueError(f"There is no column '{one}': there are {', '.join(BY_ID)}.")
    return [BY_ID[one] for one in dict.fromkeys(ids or USUAL)]


def table(
    frames: Sequence[Mapping[str, Any]], columns: Sequence[Column], labels: LabelSet
) -> list[list[Cell]]:
    """What stands in the columns, a row a frame."""
    return [[column.of(known, labels) for column in columns] for known in frames]
