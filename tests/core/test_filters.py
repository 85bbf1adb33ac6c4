"""What a filter means, against a plain reading of it frame by frame; sentences, both ways."""

from __future__ import annotations

from collections.abc import Sequence
from unicodedata import normalize

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests import asking
from tests.asking import Made, ground_of, passes
from winnow.core.filters import FrameFilter, Part, counts
from winnow.core.labels import FIRST, Colour, Label, LabelSet, Shape
from winnow.core.sentence import SentenceError, complete, parse, say
from winnow.core.words import languages_form, list_form


@settings(max_examples=250, deadline=None)
@given(asking.frames, asking.questions)
def test_a_filter_means_what_a_plain_reading_says(frames: Sequence[Made], wanted: FrameFilter) -> None:
    assert wanted.mask(ground_of(frames)).tolist() == [passes(frame, wanted, frames) for frame in frames]
    assert wanted.shows_all is (wanted == FrameFilter())


@settings(max_examples=400, deadline=None)
@given(asking.questions)
def test_a_sentence_says_what_the_filter_is(wanted: FrameFilter) -> None:
    said = say(wanted, FIRST)
    assert parse(said, FIRST) == wanted, said


@settings(max_examples=100, deadline=None)
@given(asking.frames, asking.questions)
def test_a_count_is_what_the_answer_would_show(frames: Sequence[Made], wanted: FrameFilter) -> None:
    found = counts(wanted, ground_of(frames))
    for facet, alternatives in found.items():
        others = tuple(part for part in wanted.parts if part.facet != facet)
        for one in alternatives:
            assert parse(one.phrase, FIRST).parts[0] == Part(facet, (one.wanted,))
            asked = FrameFilter((*others, Part(facet, (one.wanted,))))
            assert one.count == sum(passes(frame, asked, frames) for frame in frames), one.phrase


def test_bars_of_a_histogram_share_all_figures_among_them() -> None:
    made = [Made(numbers={**Made().numbers, "sigma": 0.5 * 1.01**n}) for n in range(300)]
    bars = counts(FrameFilter(), ground_of(made))["sigma"]
    # What lies on an edge is in both: each bar counts what its phrase would show.
    assert len(bars) == 24 and 300 <= sum(bar.count for bar in bars) <= 324


@settings(max_examples=300, deadline=None)
@given(st.one_of(st.text(max_size=60), st.lists(st.sampled_from(
    ["keepers", "not", "or", ",", '"', "label", "3", "stars", "f/", "1/0 s", "85", "mm", "–", "taken", "99:99", "at"]
)).map(" ".join)))  # fmt: skip
def test_any_text_is_a_filter_or_a_reason_with_a_place(text: str) -> None:
    try:
        wanted = parse(text, FIRST)
    except SentenceError as error:
        assert 0 <= error.start <= error.end <= len(text) and str(error)
    else:
        assert parse(say(wanted, FIRST), FIRST) == wanted
    for one in complete(text, len(text), FIRST):
        assert 0 <= one.start <= one.end <= len(text)


@pytest.mark.parametrize(
    ("typed", "said"),
    [
        ("Kept,  with 3+ stars , 50-105 mm", "keepers, 3 stars or more, 50–105 mm"),
        ("unrated or 3 stars or more", "unrated or 3 stars or more"),
        ("5 stars or more; not not rejected", "5 stars, rejects"),
        ("camera Tarn One or Tarn Two", "camera Tarn One or camera Tarn Two"),
        ("not Send first", "not label Send first"),
        ("label Retouch or Combine", "label Retouch or label Combine"),
        ("f/1.4 to f/2.8, 1/500 to 1/60 s, sigma .5-1 px", "f/1.4–2.8, 1/500–1/60 s, blur 0.5–1 px"),
        ("taken on 2026-10-17, at 7:05-18:00", "taken on 2026-10-17, at 07:05–18:00"),
        ("light −1 to 0.5 stops, with faces", "light -1 to 0.5 stops, with faces"),
    ],
)
def test_what_people_type(typed: str, said: str) -> None:
    assert say(parse(typed, FIRST), FIRST) == said


@pytest.mark.parametrize(
    ("typed", "place", "told"),
    [
        ("keepers, keeprs, 85 mm", "keeprs", "Did you mean “keepers”"),
        ("undecided or 3 stars", "3 stars", "put a comma"),
        ("undecided or 1/0 s", "1/0 s", "1/0"),
        ('undecided or label ""', 'label ""', "Which label"),
        ("105–50 mm", "105–50 mm", "smaller one"),
        ('keepers, label "Client', '"Client', "quotation mark"),
        ("taken on 2026-13-40", "taken on 2026-13-40", "no date"),
        ("1/0 s", "1/0 s", "1/0"),
        ("camera ", "camera", "nothing that can be asked"),
    ],
)
def test_what_is_not_understood_is_pointed_at(typed: str, place: str, told: str) -> None:
    with pytest.raises(SentenceError, match=told) as caught:
        parse(typed, FIRST)
    assert typed[caught.value.start : caught.value.end] == place


def test_accents_may_be_composed_otherwise() -> None:
    """Unicode 15, 3.11: canonical equivalents are one text. Older Macs write names decomposed; browsers compose."""
    apart, typed = normalize("NFD", "Müller"), normalize("NFC", "müller")
    caption, keywords = languages_form({"x-default": f"Frau {apart}"}), list_form([apart])
    texts = {**Made().texts, "camera": apart, "caption": caption, "keywords": keywords}
    frame = Made(name=f"{apart}_0001.jpg", texts=texts)
    for asked in ("name {}", "name {}_*", "camera {}", "caption {}", "keyword {}"):
        assert parse(asked.format(typed), FIRST).mask(ground_of([frame])).tolist() == [True], asked


def test_completion_goes_on_from_what_is_typed() -> None:
    known = counts(FrameFilter(), ground_of([Made(texts={**Made().texts, "camera": "Tarn One"})]))
    found = complete("keepers, not tar", 16, FIRST, known)
    assert [(one.start, one.end, one.phrase, one.count) for one in found] == [(13, 16, "camera Tarn One", 1)]
    assert "eyes open" in [one.phrase for one in complete("eye, keepers", 3, FIRST)]
    assert [one.phrase for one in complete("keepers or un", 13, FIRST)][:1] == ["undecided"]


def test_labels_that_would_be_mistaken_for_another_are_refused() -> None:
    def made(name: str, **more: object) -> Label:
        return Label(name, name, "", Colour.SKY, Shape.DISC, **more)  # type: ignore[arg-type]

    with pytest.raises(ValueError, match="both"):
        LabelSet((made("Print"), made("print")))
    with pytest.raises(ValueError, match="key"):
        LabelSet((made("Print", key="q"), made("Web", key="Q")))
    with pytest.raises(ValueError, match="both"):
        LabelSet((made("Print", texts={"x": "Red"}), made("Web", texts={"y": "red"})))
    merged = LabelSet((made("Print", also=("Web",), texts={"x": "Red"}),), "x")
    assert (merged.id_of("WEB"), merged.written("Web"), merged.written("Other")) == ("Print", "Red", "Other")


def test_of_very_many_texts_those_of_most_frames_are_offered() -> None:
    """Ten thousand different labels took half a minute to count."""
    made = [
        Made(texts={**Made().texts, "label": f"l{n % 5000}", "camera": f"c{n % 5000}"}) for n in range(9000)
    ]
    found = counts(FrameFilter(), ground_of(made))
    for facet in ("label", "camera"):
        assert 200 <= len(found[facet]) <= 202
        assert all(
            one.count >= 2 for one in found[facet] if one.phrase.startswith((f"{facet} l", f"{facet} c"))
        )
