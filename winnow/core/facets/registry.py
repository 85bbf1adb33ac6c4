"""Everything that can be asked of frames.

Figures match what the camera wrote within rounding: an exposure of 1/320 s is stored as 0.003125 by one camera and as
0.003 by another.
"""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from winnow.core.columns import WARNINGS, Mask
from winnow.core.facets.kinds import (
    Choice,
    Facet,
    Ground,
    Named,
    Numbers,
    Test,
    say_shutter,
    shutter_of,
    tidy_shutter,
    two_places,
)
from winnow.core.facets.own import (
    DAY,
    MINUTE,
    LabelFacet,
    NameFacet,
    RatingFacet,
    TakenFacet,
    clock_of,
    moment_of,
    moment_said,
)
from winnow.core.facets.words import Worded
from winnow.core.marks import Decision
from winnow.core.warned import IN_WORDS, Warned


def _number(name: str) -> Callable[[Ground], NDArray[np.float64]]:
    return lambda ground: ground.columns.numbers[name]


def _minutes(ground: Ground) -> NDArray[np.float64]:
    """Since midnight."""
    seconds = np.mod(ground.columns.numbers["taken"], DAY.total_seconds())
    return np.asarray(np.floor(seconds / MINUTE.total_seconds()), np.float64)


def _flag(name: str) -> Test:
    return lambda ground: ground.columns.flags[name]


def _faces(test: Callable[[NDArray[np.int64]], Mask]) -> Test:
    return lambda ground: test(ground.columns.whole["faces"])


def _sides(test: Callable[[NDArray[np.float64]], Mask]) -> Test:
    def found(ground: Ground) -> Mask:
        width, height = ground.columns.whole["width"], ground.columns.whole["height"]
        with np.errstate(divide="ignore", invalid="ignore"):
            ratio = np.where((width > 0) & (height > 0), width / height, np.nan)
        return test(ratio)

    return found


def _warns(warning: Warned) -> Test:
    bit = np.uint16(1 << WARNINGS.index(warning))
    return lambda ground: (ground.columns.warnings & bit) != 0


def _is(decision: Decision) -> Test:
    return lambda ground: ground.decided(decision)


def _files(raw: bool, jpeg: bool) -> Test:
    return lambda ground: (ground.columns.flags["raw"] == raw) & (ground.columns.flags["jpeg"] == jpeg)


def _people_without_a_keeper(ground: Ground) -> Mask:
    """Frames that show somebody of their scene who is in no kept frame."""
    texts = ground.columns.texts["people"]
    kept = texts.codes[ground.here & ground.decided(Decision.KEEP)]
    shown = {number for code in np.unique(kept[kept >= 0]) for number in texts.words[code].split()}
    missing = [code for code, some in enumerate(texts.words) if not shown.issuperset(some.split())]
    return np.isin(texts.codes, missing)


SQUARE = 0.02
"""Sides that differ by less than this share make a square."""

FACETS: tuple[Facet, ...] = (
    Choice(
        "decision",
        "Decision",
        {
            "keepers": _is(Decision.KEEP),
            "undecided": _is(Decision.UNDECIDED),
            "rejects": _is(Decision.REJECT),
        },
        {"kept": "keepers", "keep": "keepers", "rejected": "rejects", "reject": "rejects"},
    ),
    RatingFacet(),
    LabelFacet(),
    Choice(
        "warning",
        "Look at",
        {
            **{word: _warns(warning) for warning, word in IN_WORDS.items()},
            "warned": lambda ground: ground.columns.warnings != 0,
        },
    ),
    Choice(
        "faces",
        "Faces",
        {
            "no faces": _faces(lambda n: n == 0),
            "one face": _faces(lambda n: n == 1),
            "two faces": _faces(lambda n: n == 2),
            "many faces": _faces(lambda n: n > 2),
            "with faces": _faces(lambda n: n > 0),
        },
        {"faces": "with faces", "without faces": "no faces"},
    ),
    Choice("eyes", "Eyes", {"eyes open": _flag("eyes_open"), "looking away": _flag("away")}),
    Choice(
        "similar",
        "Similar frames",
        {
            "has similar": lambda ground: ground.group_size > 1,
            "single": lambda ground: ground.group_size == 1,
        },
    ),
    Choice("lead", "Lead", {"leads": lambda ground: ground.columns.flags["lead"] & (ground.group_size > 1)}),
    Choice(
        "progress",
        "Its group",
        {
            "groups still undecided": lambda g: g.in_group(g.decided(Decision.UNDECIDED)) > 0,
            "groups without a keeper": lambda g: g.in_group(g.decided(Decision.KEEP)) == 0,
            "scenes without a keeper": lambda g: g.in_scene(g.decided(Decision.KEEP)) == 0,
            "groups with several keepers": lambda g: g.in_group(g.decided(Decision.KEEP)) > 1,
            "people without a keeper": _people_without_a_keeper,
        },
    ),
    Numbers(
        "size",
        "Frames in the group",
        lambda ground: ground.group_size.astype(np.float64),
        before="groups of ",
        tidy=round,
        example="groups of 3–6",
    ),
    Numbers(
        "sigma",
        "Blur at the subject",
        _number("sigma"),
        before="blur ",
        after=" px",
        also=("σ ", "sigma "),
        tidy=two_places,
        grain=0.0051,
        logarithmic=True,
        example="blur 0.5–1.2 px",
    ),
    Numbers(
        "light",
        "Light beside the group",
        _number("light"),
        before="light ",
        after=" stops",
        between=" to ",
        tidy=two_places,
        grain=0.0051,
        example="light -0.5 to 0.5 stops",
    ),
    Numbers("focal", "Focal length", _number("focal"), after=" mm", logarithmic=True, example="50–105 mm"),
    Numbers("aperture", "Aperture", _number("aperture"), before="f/", logarithmic=True, example="f/1.4–2.8"),
    Numbers(
        "shutter",
        "Shutter",
        _number("shutter"),
        after=" s",
        figure=r"\d+/\d+|\d+(?:\.\d*)?|\.\d+",
        parse=shutter_of,
        tidy=tidy_shutter,
        written=say_shutter,
        slack=0.01,
        logarithmic=True,
        example="1/500–1/60 s",
    ),
    Numbers("iso", "ISO", _number("iso"), before="ISO ", logarithmic=True, example="ISO 100–800"),
    Worded("keywords", "Keywords", "keyword", "with keywords", "no keywords", exact=True),
    Worded("caption", "Caption", "caption", "with a caption", "no caption"),
    Worded("headline", "Headline", "headline", "with a headline", "no headline"),
    Worded("creator", "Creator", "creator", "with a creator", "no creator", exact=True),
    Worded("copyright", "Copyright", "copyright", "with a copyright", "no copyright"),
    Named("camera", "Camera", "camera", "camera"),
    Named("lens", "Lens", "lens", "lens"),
    Named("serial", "Serial number", "serial", "serial"),
    TakenFacet(
        "taken",
        "When",
        _number("taken"),
        before="taken ",
        figure=r"\d{4}-\d\d-\d\d[ T]\d\d:\d\d(?::\d\d)?",
        parse=moment_of,
        tidy=lambda moment: float(int(moment // 1)),
        written=moment_said,
        between=" to ",
        ends=("or later", "or earlier"),
        slack=0,
        example="taken on 2026-10-17",
    ),
    Numbers(
        "clock",
        "Time of day",
        _minutes,
        before="at ",
        figure=r"\d\d?:\d\d",
        parse=clock_of,
        tidy=lambda minutes: float(int(minutes)),
        written=lambda minutes: f"{int(minutes) // 60:02d}:{int(minutes) % 60:02d}",
        ends=("or later", "or earlier"),
        slack=0,
        example="at 17:05–18:00",
    ),
    Numbers(
        "scene",
        "Scene",
        lambda ground: ground.columns.whole["scene"].astype(np.float64) + 1,
        before="scene ",
        tidy=round,
        example="scene 2",
    ),
    Named("folder", "Folder", "folder", "folder"),
    Choice(
        "shape",
        "Shape",
        {
            "upright": _sides(lambda ratio: ratio < 1 - SQUARE),
            "level": _sides(lambda ratio: ratio > 1 + SQUARE),
            "square": _sides(lambda ratio: np.abs(ratio - 1) <= SQUARE),
        },
    ),
    Choice(
        "files",
        "Files",
        {
            "RAW only": _files(True, False),
            "JPEG only": _files(False, True),
            "RAW and JPEG": _files(True, True),
        },
    ),
    Named("type", "File type", "type", "type"),
    Choice("edited", "Edited", {"edited": _flag("edited"), "edited files": _flag("from_frame")}),
    Choice(
        "unwritten",
        "Marks and sidecars",
        {"unwritten marks": _flag("unwritten"), "marked elsewhere": _flag("incoming")},
    ),
    Choice("proposed", "Proposals", {"proposed marks": _flag("proposed")}),
    Choice("readable", "Readable", {"unreadable": _flag("unreadable"), "to try again": _flag("again")}),
    Choice("notes", "File notes", {"file notes": _flag("noted")}),
    Choice("copies", "Same content twice", {"copies": _flag("copies")}),
    NameFacet(),
)
"""In the order in which they are offered."""

BY_NAME = {facet.name: facet for facet in FACETS}
