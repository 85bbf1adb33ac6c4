"""Labels: what the person means by them, what they look like, and what editing programs call them.

A frame holds the id of its label, which never changes; names, looks and texts do. A text that nobody defined is its
own id, so what another program wrote stays as it is until somebody adopts it.
Colours: Okabe & Ito, *Color Universal Design*, 2008. Shape and name carry the meaning; the colour helps.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field, replace
from enum import StrEnum

from winnow.core.marks import Marks
from winnow.core.pairing import fold


class Colour(StrEnum):
    ORANGE = "orange"
    SKY = "sky"
    GREEN = "green"
    YELLOW = "yellow"
    BLUE = "blue"
    VERMILION = "vermilion"
    PURPLE = "purple"
    BLACK = "black"


HEX = {
    Colour.ORANGE: "#E69F00",
    Colour.SKY: "#56B4E9",
    Colour.GREEN: "#009E73",
    Colour.YELLOW: "#F0E442",
    Colour.BLUE: "#0072B2",
    Colour.VERMILION: "#D55E00",
    Colour.PURPLE: "#CC79A7",
    Colour.BLACK: "#000000",
}


class Shape(StrEnum):
    TRIANGLE = "triangle"
    DIAMOND = "diamond"
    HEXAGON = "hexagon"
    DISC = "disc"
    SQUARE = "square"
    CROSS = "cross"
    RING = "ring"
    CHEVRON = "chevron"


MOST_LABELS = 24
LONGEST_MEANING = 300


@dataclass(frozen=True, slots=True)
class Label:
    """A label as the person defined it. key: one character, or None; texts: program → what is written to `xmp:Label`
    for it, the name where it is not there; also: ids of labels that were merged into this one."""

    id: str
    name: str
    meaning: str
    colour: Colour
    shape: Shape
    key: str | None = None
    texts: Mapping[str, str] = field(default_factory=dict)
    also: tuple[str, ...] = ()

    @property
    def ids(self) -> tuple[str, ...]:
        """All ids by which frames may hold it."""
        return (self.id, *self.also)

    @property
    def read_as(self) -> Iterator[str]:
        """All texts that mean it in a file."""
        yield from self.ids
        yield self.name
        yield from self.texts.values()


@dataclass(frozen=True, slots=True)
class LabelSet:
    """The labels of a person. program: for which of the programs texts are written; None: names are.

    Raises ValueError where one text, name or key would mean two labels.
    """

    labels: tuple[Label, ...] = ()
    program: str | None = None
    _meant: Mapping[str, Label] = field(init=False, repr=False, compare=False, default_factory=dict)

    def __post_init__(self) -> None:
        if len(self.labels) > MOST_LABELS:
            raise ValueError(f"More than {MOST_LABELS} labels cannot be told apart.")
        meant: dict[str, Label] = {}
        keys: dict[str, Label] = {}
        for label in self.labels:
            _check(label)
            for text in label.read_as:
                other = meant.setdefault(fold(text), label)
                if other is not label:
                    raise ValueError(f"'{text}' would mean both '{other.name}' and '{label.name}'.")
            if label.key:
                other = keys.setdefault(fold(label.key), label)
                if other is not label:
                    raise ValueError(
                        f"The key {label.key.upper()} would set both '{other.name}' and '{label.name}'."
                    )
        object.__setattr__(self, "_meant", meant)

    def of(self, text: str) -> Label | None:
        """The label that an id, a name or a text in a file means; None: nobody defined it."""
        return self._meant.get(fold(text))

    def id_of(self, text: str) -> str:
        """The id of the label that a text means; the text itself where nobody defined it."""
        found = self.of(text)
        return found.id if found else text

    def name_of(self, label_id: str) -> str:
        found = self.of(label_id)
        return found.name if found else label_id

    def written(self, label_id: str) -> str:
        """What stands in `xmp:Label` for a label."""
        found = self.of(label_id)
        if found is None:
            return label_id
        return found.texts.get(self.program or "", found.name)

    def as_held(self, marks: Marks) -> Marks:
        """Marks of a file, with the id of the label that its text means."""
        return replace(marks, label=self.id_of(marks.label)) if marks.label else marks

    def as_written(self, marks: Marks) -> Marks:
        """Marks of a frame, with the text of its label."""
        return replace(marks, label=self.written(marks.label)) if marks.label else marks


def _check(label: Label) -> None:
    for text in label.read_as:
        if text != text.strip():
            raise ValueError(f"'{text}' begins or ends with a space.")
        Marks(label=text)  # says what a text may not be
    if len(label.meaning) > LONGEST_MEANING:
        raise ValueError(f"What '{label.name}' means is said in at most {LONGEST_MEANING} characters.")
    if label.key is not None and len(label.key) != 1:
        raise ValueError(f"The key of '{label.name}' is one character.")


FIRST = LabelSet(
    (
        Label("Retouch", "Retouch", "goes on to be edited by hand", Colour.SKY, Shape.TRIANGLE, "q"),
        Label("Combine", "Combine", "lends something to another frame", Colour.ORANGE, Shape.DIAMOND, "w"),
        Label("Send first", "Send first", "leaves before all others", Colour.PURPLE, Shape.HEXAGON, "e"),
    )
)
"""The labels that are there before the person defines any: for what happens next."""
