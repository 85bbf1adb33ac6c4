"""Proof sets: pictures laid out for a client, whose answer comes back as marks."""

from __future__ import annotations

from dataclasses import dataclass

LONGEST = 2000


@dataclass(frozen=True, slots=True)
class Proof:
    """What a proof set is to be. title, contact, note, expires: texts on its page, expires in words ("until 1 May");
    names: files are called by their names beside the numbers; watermark: text across a corner of each picture;
    long_edge, small_edge: of the large and the small view, px; id: told by its pages, and in answers. Raises
    ValueError."""

    title: str
    contact: str = ""
    note: str = ""
    expires: str = ""
    names: bool = True
    watermark: str = ""
    long_edge: int = 1600
    small_edge: int = 480
    quality: int = 85
    id: str = ""

    def __post_init__(self) -> None:
        if not self.title.strip():
            raise ValueError("Give the proof set a title: the client reads it first.")
        if any(
            len(text) > LONGEST
            for text in (self.title, self.contact, self.note, self.expires, self.watermark)
        ):
            raise ValueError(f"A text of a proof set has at most {LONGEST} characters.")


@dataclass(frozen=True, slots=True)
class Shown:
    """A picture of a set. name: of its file; width, height: upright, px, 0 where not known."""

    number: int
    frame_id: int
    name: str
    width: int
    height: int


def file_of(number: int) -> str:
    """What the file of a picture in a set is called: its number alone, so that names are told only if wanted."""
    return f"{number:04d}.jpg"
