"""Made-up frames, questions to them, and a plain reading of what the questions mean: one frame at a time, by other
code than the one that is tested."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass, field
from datetime import UTC, datetime
from math import isnan, nan

import numpy as np
from hypothesis import strategies as st

from winnow.core.columns import DECISIONS, FLAGS, NUMBERS, TEXTS, WARNINGS, Columns
from winnow.core.facets.kinds import Alternative, Ground, Span, Value, Word
from winnow.core.facets.registry import FACETS
from winnow.core.filters import FrameFilter, Part
from winnow.core.labels import FIRST
from winnow.core.marks import WORD_FIELDS, Decision, Field
from winnow.core.warned import IN_WORDS, Warned
from winnow.core.words import languages_of, list_of

DAY_1 = datetime(2026, 10, 17, 16, 30, tzinfo=UTC).timestamp()


@dataclass
class Made:
    """A frame as filters know it."""

    here: bool = True
    decision: Decision = Decision.UNDECIDED
    rating: int = 0
    warnings: frozenset[Warned] = frozenset()
    name: str = "a/TMN_0001.jpg"
    group: int = 0
    scene: int = 0
    faces: int = -1
    width: int = 0
    height: int = 0
    numbers: dict[str, float] = field(default_factory=lambda: dict.fromkeys(NUMBERS, nan))
    texts: dict[str, str | None] = field(default_factory=lambda: dict.fromkeys(TEXTS))
    flags: frozenset[str] = frozenset()


def ground_of(frames: Sequence[Made]) -> Ground:
    columns = Columns.empty(len(frames))
    for row, frame in enumerate(frames):
        columns.decision[row] = DECISIONS.index(frame.decision)
        columns.rating[row] = frame.rating
        columns.warnings[row] = sum(1 << WARNINGS.index(warning) for warning in frame.warnings)
        columns.names[row] = frame.name
        for name in ("group", "scene", "faces", "width", "height"):
            columns.whole[name][row] = getattr(frame, name)
        for name in NUMBERS:
            columns.numbers[name][row] = frame.numbers[name]
        for name in TEXTS:
            columns.texts[name].codes[row] = columns.texts[name].code(frame.texts[name])
        for name in FLAGS:
            columns.flags[name][row] = name in frame.flags
    return Ground(columns, np.array([frame.here for frame in frames], np.bool_), FIRST)


def passes(frame: Made, wanted: FrameFilter, frames: Sequence[Made]) -> bool:
    return frame.here and all(
        any(holds(frame, part.facet, one, frames) for one in part.wanted) != part.negated
        for part in wanted.parts
    )


def holds(frame: Made, facet: str, wanted: Alternative, frames: Sequence[Made]) -> bool:
    """Whether one alternative holds for a frame among others."""
    if isinstance(wanted, Word):
        return _word(frame, wanted.text, frames)
    if isinstance(wanted, Value):
        told = wanted.text.casefold()
        if facet == "name":
            return _named(frame.name.casefold(), told)
        text = frame.texts[facet]
        if facet in WORD_FIELDS:
            return _worded(facet, text, told)
        if facet == "label" and text is not None:
            return FIRST.id_of(text) == FIRST.id_of(wanted.text)
        return text is not None and text.casefold() == told
    slack = {"shutter": 0.01, "taken": 0.0, "clock": 0.0}.get(facet, 1e-6)
    grain = 0.0051 if facet in ("sigma", "light") else 0.0
    return _within(_figure(frame, facet, frames), wanted, slack, grain)


def _worded(facet: str, held: str | None, told: str) -> bool:
    if facet in ("keywords", "creator"):
        return told in (item.casefold() for item in list_of(held))
    texts = languages_of(held).values() if facet == "caption" else [held or ""]
    return any(told in text.casefold() for text in texts)


def _within(figure: float, span: Span, slack: float, grain: float) -> bool:
    if isnan(figure):
        return False
    low = -np.inf if span.low is None else span.low - max(grain, slack * max(1e-3, abs(span.low)))
    high = np.inf if span.high is None else span.high + max(grain, slack * max(1e-3, abs(span.high)))
    return bool(low <= figure <= high)


def _figure(frame: Made, facet: str, frames: Sequence[Made]) -> float:
    if facet == "rating":
        return frame.rating
    if facet == "scene":
        return frame.scene + 1
    if facet == "size":
        return len(_group(frame, frames))
    if facet == "clock":
        taken = frame.numbers["taken"]
        if isnan(taken):
            return nan
        at = datetime.fromtimestamp(taken, UTC)
        return at.hour * 60 + at.minute
    return frame.numbers[facet]


def _group(frame: Made, frames: Sequence[Made]) -> list[Made]:
    return [other for other in frames if other.here and other.group == frame.group]


def _named(name: str, told: str) -> bool:
    if not re.search(r"[*?]", told):
        return told in name
    like = "".join({"*": ".*", "?": "."}.get(c, re.escape(c)) for c in told)
    if "/" in told:
        return any(re.fullmatch(like, one) for one in (name, name.rpartition(".")[0]))
    file = name.rpartition("/")[2]
    return any(re.fullmatch(like, one) for one in (file, file.rpartition(".")[0]))


def _word(frame: Made, word: str, frames: Sequence[Made]) -> bool:
    group = _group(frame, frames)
    kept = sum(one.decision is Decision.KEEP for one in group)
    label, ratio = frame.texts["label"], frame.width / frame.height if frame.width and frame.height else nan
    return {
        "keepers": frame.decision is Decision.KEEP,
        "undecided": frame.decision is Decision.UNDECIDED,
        "rejects": frame.decision is Decision.REJECT,
        "labelled": label is not None,
        "unlabelled": label is None,
        "warned": bool(frame.warnings),
        **{said: warning in frame.warnings for warning, said in IN_WORDS.items()},
        "no faces": frame.faces == 0,
        "one face": frame.faces == 1,
        "two faces": frame.faces == 2,
        "many faces": frame.faces >= 3,
        "with faces": frame.faces >= 1,
        "eyes open": "eyes_open" in frame.flags,
        "looking away": "away" in frame.flags,
        "has similar": len(group) > 1,
        "single": len(group) == 1,
        "leads": "lead" in frame.flags and len(group) > 1,
        "groups still undecided": any(one.decision is Decision.UNDECIDED for one in group),
        "groups without a keeper": kept == 0,
        "groups with several keepers": kept > 1,
        "people without a keeper": any(
            not any(
                one.here and one.decision is Decision.KEEP and person in (one.texts["people"] or "").split()
                for one in frames
            )
            for person in (frame.texts["people"] or "").split()
        ),
        "scenes without a keeper": not any(
            one.here and one.scene == frame.scene and one.decision is Decision.KEEP for one in frames
        ),
        "upright": ratio < 0.98,
        "level": ratio > 1.02,
        "square": 0.98 <= ratio <= 1.02,
        "RAW only": "raw" in frame.flags and "jpeg" not in frame.flags,
        "JPEG only": "raw" not in frame.flags and "jpeg" in frame.flags,
        "RAW and JPEG": {"raw", "jpeg"} <= frame.flags,
        "edited": "edited" in frame.flags,
        "edited files": "from_frame" in frame.flags,
        "unwritten marks": "unwritten" in frame.flags,
        "marked elsewhere": "incoming" in frame.flags,
        "proposed marks": "proposed" in frame.flags,
        "unreadable": "unreadable" in frame.flags,
        "to try again": "again" in frame.flags,
        "file notes": "noted" in frame.flags,
        "copies": "copies" in frame.flags,
        **{f"no {name}": frame.texts[name] is None for name in WORD_FIELDS},
        **{f"with a {name}": frame.texts[name] is not None for name in WORD_FIELDS},
        "with keywords": frame.texts["keywords"] is not None,
    }[word]


FIGURES = {
    "sigma": [0.6, 1.2, 3.5],
    "light": [-1.5, 0.0, 0.25],
    "focal": [24.0, 85.0, 105.0],
    "aperture": [1.4, 2.8, 8.0],
    "shutter": [1 / 1000, 0.003, 1 / 320, 0.5, 4.0],
    "iso": [100.0, 640.0, 102400.0],
    "taken": [DAY_1, DAY_1 + 61, DAY_1 + 86400.0],
}
SAID = {
    "label": ["Retouch", "retouch", "Send first", "Client, or press", "label x", '12" print, "gloss"'],
    "camera": ["Tarn One", "Tarn Two or so"],
    "serial": ["007"],
    "lens": ["Tarn 85mm f/1.8", "not a lens"],
    "folder": [".", "day 1/evening"],
    "type": ["JPG", "CR3"],
    "people": ["0", "0 1", "1 2"],
    Field.CAPTION: [
        '{"x-default": "Boats, at [the] quay"}',
        '{"x-default": "Quay", "de": "Boote \\"am\\" Kai"}',
    ],
    Field.HEADLINE: ["[1]", "{quay}", "Boats or not"],
    Field.KEYWORDS: ['["boat", "Quay, old"]', '["boats"]', '["with \\"quotes\\"", "or"]'],
    Field.CREATOR: ['["Íde", "Zoë or so"]', '["íde"]'],
    Field.COPYRIGHT: ["© 2026, Íde", "not free"],
}
NAMES = ["a/TMN_0001.jpg", "TMN_0012.CR3", "b c/Großes [1].jpg", "b c/TMN_0001-edit.tif"]

frames = st.lists(
    st.builds(
        Made,
        here=st.sampled_from([True, True, True, False]),
        decision=st.sampled_from(list(Decision)),
        rating=st.integers(0, 5),
        warnings=st.frozensets(st.sampled_from(list(Warned)), max_size=2),
        name=st.sampled_from(NAMES),
        group=st.integers(0, 3),
        scene=st.integers(0, 2),
        faces=st.integers(-1, 4),
        width=st.sampled_from([0, 40, 60]),
        height=st.sampled_from([0, 40, 60]),
        numbers=st.fixed_dictionaries({name: st.sampled_from([nan, *FIGURES[name]]) for name in NUMBERS}),
        texts=st.fixed_dictionaries({name: st.sampled_from([None, *SAID[name]]) for name in TEXTS}),
        flags=st.frozensets(st.sampled_from(FLAGS)),
    ),
    max_size=9,
)

WHOLE = {
    "rating": [0.0, 1.0, 3.0, 5.0],
    "scene": [1.0, 2.0, 3.0],
    "size": [1.0, 2.0, 3.0],
    "clock": [990.0, 991.0],
}


def _alternatives(facet: str) -> st.SearchStrategy[Alternative]:
    words = [Word(one) for one in getattr(BY_NAME[facet], "words", {})]
    words += [Word("labelled"), Word("unlabelled")] * (facet == "label")
    texts = [Value(one) for one in SAID.get(facet, ())]
    if facet == "label":
        texts = [Value(FIRST.id_of(one.text)) for one in texts]
    if facet in WORD_FIELDS:
        texts = [
            Value(one) for one in ("boat", "quay, old", "Íde", "or", 'with "quotes"', "not", "[", "2026,")
        ]
    if facet == "name":
        texts = [Value(one) for one in ("TMN", "tmn_00*", "a/*", "*[1]*", "TMN_000?", "x, y")]
    figures = sorted(FIGURES.get(facet, WHOLE.get(facet, [])))
    tidy = getattr(BY_NAME[facet], "tidy", float)
    spans = [Span(tidy(a), tidy(b)) for a in figures for b in figures if tidy(a) <= tidy(b)]
    if facet not in ("rating",):
        spans += [Span(tidy(a), None) for a in figures] + [Span(None, tidy(a)) for a in figures]
    return st.sampled_from([*words, *texts, *spans])


BY_NAME = {facet.name: facet for facet in FACETS}

parts = st.sampled_from(sorted(BY_NAME)).flatmap(
    lambda facet: st.builds(
        Part,
        st.just(facet),
        st.lists(_alternatives(facet), min_size=1, max_size=3, unique=True).map(tuple),
        st.booleans(),
    )
)
questions = st.lists(parts, max_size=3, unique=True).map(lambda found: FrameFilter(tuple(found)))
