"""What clients write, and which pictures they mean. Common practice, no source: how such answers look."""

from __future__ import annotations

from itertools import pairwise
from unicodedata import normalize

import pytest
from hypothesis import given
from hypothesis import strategies as st

from winnow.core.answer import Answer, Given, How, Item, Verdict, read_given, read_text
from winnow.demo.client import STRANGER, choose

SET = [Item(n, f"100CARDS/DSC_{400 + n:04d}.JPG", 1000 + n) for n in range(1, 31)]
"""30 pictures, numbered from 1: DSC_0401 to DSC_0430."""


def said(answer: Answer) -> dict[str, list[int]]:
    found: dict[str, list[int]] = {}
    for one in answer.named:
        found.setdefault(one.verdict.value, []).append(one.frame_id - 1000)
    return found


@pytest.mark.parametrize(
    ("text", "like", "no", "doubtful"),
    [
        ("I love 12, 15-18 and DSC 0412!!, not 20", [12, 15, 16, 17, 18], [20], []),
        ("12", [12], [], []),
        ("#3 and #4", [3, 4], [], []),
        ("3 – 5", [3, 4, 5], [], []),
        ("dsc_0407.jpg\nDSC0408\nDsc-0409.JPEG", [7, 8, 9], [], []),
        ("0412", [12], [], []),  # with the nought it is the file's number
        ("413 please", [13], [], []),
        ("DSC_042O", [20], [], []),  # the letter O
        ("DSC_0142", [12], [], []),  # two figures swapped
        ("not 20, 21 and 22", [], [20, 21, 22], []),
        ("12 yes, 13 no, 14 yes", [12, 14], [13], []),
        ("Not 5. 6 is great", [6], [5], []),
        ("without 5 but 6", [6], [5], []),
        ("7 nicht, 8 gern", [8], [7], []),
        ("2 of us love 12", [12], [], ["2"]),
        ("a 20x30 print of 9", [9], [], []),
        ("call me at 16:40 on 17.10. about 4", [4], [], ["17.10"]),
        ("1,2, 3,not 4", [1, 2, 3], [4], []),
        ("5 copies of 6", [6], [], ["5"]),
        ("picture 7, photo no. 8", [7, 8], [], []),
        ("99", [], [], ["99"]),
        ("25-40", [], [], ["25-40"]),
        ("18-15", [], [], ["18-15"]),
        ("3 4 no, 5", [3, 5], [], ["4"]),  # of which of the two?
        ("3 4 yes", [3, 4], [], []),
        ("12, not 12", [], [], ["12"]),
        ("", [], [], []),
        ("lovely, thank you!", [], [], []),
    ],
)
def test_free_text(text: str, like: list[int], no: list[int], doubtful: list[str]) -> None:
    answer = read_text(text, SET)
    if text == "DSC_0142":
        assert said(answer) in ({"like": [12]}, {}) and [d.suggested for d in answer.doubts] in (
            [],
            [(1012,)],
        )
        return
    assert said(answer) == {k: v for k, v in (("like", like), ("no", no)) if v}
    assert [doubt.quote for doubt in answer.doubts] == doubtful


def test_accents_may_be_composed_otherwise() -> None:
    """Unicode 15, 3.11: canonical equivalents are one text."""
    apart, composed = (normalize(form, "Müller_0007.jpg") for form in ("NFD", "NFC"))
    for name, text in ((apart, composed), (composed, apart)):
        assert said(read_text(f"only {text}", [Item(1, name, 1001)])) == {"like": [1]}
        assert said(read_given([Given(None, text, Verdict.NO, "")], [Item(1, name, 1001)])) == {"no": [1]}


def test_what_is_unclear_comes_with_suggestions() -> None:
    two = [Item(1, "a/IMG_1.JPG", 1), Item(2, "b/IMG_0001.JPG", 2), Item(3, "b/IMG_0001.CR3", 3)]
    (doubt,) = read_text("IMG_0001", two).doubts
    assert doubt.suggested == (2, 3) and "2 pictures" in doubt.why
    (doubt,) = read_text("DSC 0450", SET).doubts  # nothing of the kind, and one letter off from several
    assert len(doubt.suggested) == 4


@pytest.mark.parametrize("seed", range(8))
def test_the_stand_in_client_is_understood(seed: int) -> None:
    """Names without ending, in small letters, with a space, with two digits swapped; and one that was never there."""
    names = [item.name.split("/")[1] for item in SET]
    choices = choose(names, seed)
    answer = read_text("\n".join(choice.typed for choice in choices), SET)
    by_id = {item.frame_id: item.name.split("/")[1] for item in SET}
    found = {by_id[one.frame_id] for one in answer.named}
    plain = {c.meant for n, c in enumerate(choices) if c.meant and n % 5 != 4}
    swapped = {c.meant for n, c in enumerate(choices) if c.meant and n % 5 == 4}
    assert plain <= found and STRANGER not in str(answer.named)
    # Two digits swapped may be another picture's own name: only what is one step from a single one is taken.
    assert len(found - plain - swapped) <= len(swapped)


@given(st.text(st.one_of(st.characters(), st.sampled_from("0123456789 -,.#DSC_\nnot"))), st.integers(0, 40))
def test_no_text_crashes_or_names_what_it_does_not(text: str, count: int) -> None:
    """Whatever is named: its number, or the digits of its file give or take one, stand in the text."""
    answer = read_text(text, SET[:count])
    for one in answer.named:
        number = one.frame_id - 1000
        digits = "".join(c if c in "0123456789" else " " for c in text)
        ranged = any(a <= number <= b for a, b in pairwise(map(int, digits.split())))
        assert ranged or one.how is How.TYPO or {str(number), str(400 + number)} & {
            part.lstrip("0") for part in digits.split()
        }  # fmt: skip


def test_what_the_pages_give_back() -> None:
    given_back = [
        Given(3, "DSC_0403", Verdict.LIKE, "crop it closer"),
        Given(None, "dsc_0404.jpg", Verdict.NO, ""),
        Given(5, "", Verdict.LIKE, ""),
        Given(6, "DSC_0407", Verdict.LIKE, ""),  # of another set, or written by hand
        Given(99, "", Verdict.LIKE, ""),
    ]
    answer = read_given(given_back, SET)
    assert said(answer) == {"like": [3, 5], "no": [4]} and answer.named[0].comment == "crop it closer"
    assert [(d.quote, d.suggested) for d in answer.doubts] == [("6 DSC_0407", (1006, 1007)), ("99", ())]
