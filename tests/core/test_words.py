"""Words on frames: their forms, changes, tokens, and keywords that go on from what is typed."""

from __future__ import annotations

from datetime import datetime

from hypothesis import given
from hypothesis import strategies as st

from winnow.core.tokens import About, fill
from winnow.core.vocabulary import Term, offers, read
from winnow.core.words import WordsChange, clean, languages_form, languages_of, list_form, list_of

texts = st.text(max_size=20)
lists = st.lists(texts, max_size=6)
languages = st.sampled_from(["x-default", "de", "pt-BR", "fr"])


@given(lists, lists, lists)
def test_keywords_are_added_and_taken_off_as_sets_are(
    held: list[str], added: list[str], gone: list[str]
) -> None:
    """Against plain sets; and the order of those that stay is kept."""
    before = list_form(held)
    change = WordsChange(added=tuple(added), removed=tuple(gone))
    after = list_of(change.of({"keywords": before})["keywords"]) if added or gone else list_of(before)
    plain = [{clean(one, 200, lines=False) for one in some} - {""} for some in (held, added, gone)]
    assert set(after) == (plain[0] - plain[2]) | plain[1]
    stayed = [one for one in list_of(before) if one in after and one not in plain[2]]
    assert [one for one in after if one in stayed] == stayed


@given(st.dictionaries(languages, texts), st.dictionaries(languages, st.none() | texts))
def test_only_the_languages_that_are_named_change(
    held: dict[str, str], wanted: dict[str, str | None]
) -> None:
    before = languages_form(held)
    after = languages_of(WordsChange(caption=wanted).of({"caption": before}).get("caption", before))
    cleaned = {language: clean(text or "") for language, text in {**held, **wanted}.items()}
    assert after == {language: text for language, text in cleaned.items() if text}
    # XMP Specification Part 1: the default comes first.
    assert "x-default" not in after or next(iter(after)) == "x-default"


ABOUT = About(datetime(2026, 10, 17, 16, 42, 10), "Tarn T2", "Kiln {date}", 3, "TRN_0412", 7)


def test_tokens_are_filled_in_and_other_braces_stay() -> None:
    text = "{title}, {date} {date:%d.%m.%y} {time}: {counter} {counter:3} {camera} {scene} {name}"
    assert fill(text, ABOUT) == "Kiln {date}, 2026-10-17 17.10.26 16:42: 7 007 Tarn T2 3 TRN_0412"
    for text in ("{glaze}", "{}", "{counter:x}", "{counter:99}", "{title:3}", "{ date }"):
        assert fill(text, ABOUT) == text


@given(texts)
def test_any_text_can_be_filled_in(text: str) -> None:
    assert "{title}" not in fill(text + "{date:" + text + "}", ABOUT)


def test_keywords_that_go_on_from_what_is_typed() -> None:
    terms = read("\ufeffplaces\n\tÉire\n\t\tDublin\n\t\t\t\t\tDún Laoghaire\n\ncraft\n\tpot, thrown\n")
    assert terms[2] == Term("Dublin", ("places", "Éire"))
    assert terms[3] == Term("Dún Laoghaire", ("places", "Éire", "Dublin"))
    said = [(one.word, one.frames) for one in offers("dun", terms, {"verdun": 4, "old dunes": 1})]
    assert said == [("Dún Laoghaire", 0), ("old dunes", 1), ("verdun", 4)]
    assert [one.word for one in offers("eir", terms, {})] == ["Éire"]
    assert offers("  ", terms, {"pot": 1}) == []
