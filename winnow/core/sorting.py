"""Into which folder a frame goes, where files are sorted into folders."""

from __future__ import annotations

import re
from enum import StrEnum

from winnow.core.labels import LabelSet
from winnow.core.marks import Field, in_words


class Into(StrEnum):
    """A folder for each: label, rating, day, scene, camera; NOTHING: all go to one."""

    NOTHING = "nothing"
    LABEL = "label"
    RATING = "rating"
    DAY = "day"
    SCENE = "scene"
    CAMERA = "camera"


LONGEST = 100
_RESERVED = re.compile(r"^(con|prn|aux|nul|com\d|lpt\d)(\.|$)", re.IGNORECASE)


def folder_of(
    into: Into,
    labels: LabelSet,
    *,
    label: str | None,
    rating: int,
    captured_at: str | None,
    scene: int,
    camera: str | None,
) -> str:
    """The name of the folder for a frame; empty: none of its own. label: id; captured_at: ISO 8601, of which the
    camera's own day counts; scene: from 0."""
    match into:
        case Into.LABEL:
            return safe_name(labels.name_of(label)) if label else "no label"
        case Into.RATING:
            return in_words(Field.RATING, rating)
        case Into.DAY:
            return captured_at[:10] if captured_at else "no date"
        case Into.SCENE:
            return f"scene {scene + 1}"
        case Into.CAMERA:
            return safe_name(camera) if camera and camera.strip() else "no camera"
        case Into.NOTHING:
            return ""


def safe_name(text: str) -> str:
    """A text as the name of a file or folder on any disk: no separators, no characters or names that systems keep for
    themselves, nothing hidden.

    >>> safe_name("Wheel: hands/apron"), safe_name("con"), safe_name("...")
    ('Wheel- hands-apron', '_con', '_')
    """
    plain = re.sub(r"\s", " ", re.sub(r'[\x00-\x08\x0e-\x1f\x7f/\\:*?"<>|]', "-", text))
    name = plain.strip(" .")[:LONGEST].rstrip(" .")
    return f"_{name}" if not name or _RESERVED.match(name) else name
