"""Whose edited file is whose. Common practice, no source: how programs name what they save."""

from __future__ import annotations

import pytest

from winnow.core.derived import LATER_NS, Saved, stacks


@pytest.mark.parametrize(
    ("names", "made_of"),
    [
        (["A_1.NEF", "A_1-edit.tif"], {"A_1-edit.tif": "A_1.NEF"}),
        (
            ["A_1.NEF", "A_1-edit.tif", "A_1-edit-web.jpg"],
            {"A_1-edit.tif": "A_1.NEF", "A_1-edit-web.jpg": "A_1.NEF"},
        ),
        (
            ["A_1.NEF", "A_1.TIF"],
            {"A_1.TIF": "A_1.NEF"},
        ),  # the same name, in a format that cameras hardly write
        (
            ["A_1.NEF", "A_1.tif", "A_1 copy for print.jpg"],
            {"A_1.tif": "A_1.NEF", "A_1 copy for print.jpg": "A_1.NEF"},
        ),
        (["A_1.JPG", "A_1-2.JPG", "A_1_0003.JPG"], {}),  # bursts and copies are numbered so
        (["A_1.JPG", "b/A_1-edit.JPG"], {}),  # another folder: another card may number so too
        (["A-edit.tif", "A.NEF"], {}),  # what was there first was not made from it
        (["A_1.JPG", "A_1.NEF"], {}),
        (["Anna.JPG", "Anna & Ben.JPG", "Anna-edit.JPG"], {"Anna-edit.JPG": "Anna.JPG"}),
    ],
)
def test_stacks(names: list[str], made_of: dict[str, str]) -> None:
    files = [Saved(n, name, n * 2 * LATER_NS) for n, name in enumerate(names)]
    assert {names[one]: names[original] for one, original in stacks(files).items()} == made_of


def test_a_copy_is_no_edited_file() -> None:
    both = [Saved(1, "A_1.JPG", 0, "same"), Saved(2, "A_1 copy.JPG", LATER_NS, "same")]
    assert stacks(both) == {}


def test_a_camera_that_writes_two_formats_at_once_edits_nothing() -> None:
    assert stacks([Saved(1, "A.JPG", 0), Saved(2, "A.TIF", 2 * 10**9)]) == {}
