"""Names of files by a pattern."""

from __future__ import annotations

from datetime import datetime

import pytest
from hypothesis import given
from hypothesis import strategies as st

from winnow.core.file_names import Naming, Per, free_words, names, renamed
from winnow.core.pairing import fold
from winnow.core.tokens import About, year_letter


def frame(number: int, scene: int = 1, label: str = "", day: int = 17) -> About:
    taken = datetime(2026, 10, day, 16, 42, 10)
    name = f"TRN_{number:04d}"
    return About(taken, "Tarn T2", "Kiln", scene, name, number, "TM-1", 2, f"{number:04d}", 3, label)


FRAMES = [frame(411), frame(412), frame(413, scene=2, label="Retouch", day=18)]


@pytest.mark.parametrize(
    ("pattern", "first", "last"),
    [
        ("{subject}_{date:%Y%m%d}_{counter:4}", "kiln_20261017_0001", "kiln_20261018_0003"),
        # Subject word, a letter for the year, a four-digit running number (common practice, no source).
        ("{subject}{letter}{counter:4}", "kilnZ0001", "kilnZ0003"),
        ("{camera} {serial} {scene}-{group}", "Tarn T2 TM-1 1-2", "Tarn T2 TM-1 2-2"),
        ("{name}", "TRN_0411", "TRN_0413"),
        ("{number}_{rating}{label}", "0411_3", "0413_3Retouch"),
        ("{time:%H:%M}/{counter}", "16-42-1", "16-42-3"),
    ],
)
def test_tokens(pattern: str, first: str, last: str) -> None:
    found = names(Naming(pattern, {"subject": "kiln"}), FRAMES)
    assert (found[0], found[-1]) == (first, last)


@pytest.mark.parametrize(
    ("per", "numbers"),
    [(Per.ALL, [10, 15, 20]), (Per.DAY, [10, 15, 10]), (Per.SCENE, [10, 15, 10]), (Per.LABEL, [10, 15, 10])],
)
def test_the_counter_begins_again(per: Per, numbers: list[int]) -> None:
    assert names(Naming("{counter}", start=10, step=5, per=per), FRAMES) == list(map(str, numbers))


def test_free_words_are_asked_for() -> None:
    assert free_words("{subject}_{date}_{place}_{subject}_{counter:3}") == ["subject", "place"]
    with pytest.raises(ValueError, match=r"Say what \{place\} is"):
        names(Naming("{subject}{place}", {"subject": "x", "place": " "}), FRAMES)
    with pytest.raises(ValueError, match="how the files"):
        Naming("  ")
    assert (year_letter(2001), year_letter(2026), year_letter(2027)) == ("A", "Z", "A")
    assert renamed("TRN_0411.JPG.xmp", "TRN_0411", "kiln") == "kiln.JPG.xmp"


@given(st.text(max_size=40), st.text(max_size=20))
def test_no_name_leads_out_of_its_folder(pattern: str, word: str) -> None:
    try:
        found = names(Naming(pattern + "{subject}", {"subject": word}), FRAMES)
    except ValueError:
        return
    for name in found:
        assert name and fold(name) not in (".", "..") and not set(name) & set('/\\\0:*?"<>|')
        assert not name.startswith(".") and not name.endswith((" ", "."))
