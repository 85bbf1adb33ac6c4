"""Whose exposure a file is. What tells exposures apart: Exif (CIPA DC-008): DateTimeOriginal with SubSecTimeOriginal,
BodySerialNumber, ImageUniqueID."""

from __future__ import annotations

import pytest

from winnow.core.identity import Exposure, Found, Known, content_version, recognise, same_exposure

NOON = "2026-10-17T12:00:00"


@pytest.mark.parametrize(
    ("one", "other", "same"),
    [
        (Exposure(NOON + ".250", "7"), Exposure(NOON + ".250", "7"), True),
        (Exposure(NOON + ".250"), Exposure(NOON + ".25+02:00"), True),  # a program added the offset
        (Exposure(NOON + ".250"), Exposure(NOON + ".260"), False),
        (Exposure(NOON, "7"), Exposure(NOON + ".250", "7"), True),  # a program dropped the sub-seconds
        (Exposure(NOON, "7"), Exposure(NOON, "8"), False),
        (Exposure(NOON, camera="A"), Exposure(NOON, camera="B"), False),
        (Exposure(NOON), Exposure(NOON), None),  # a burst without sub-seconds
        (Exposure(NOON), Exposure("2026-10-18T12:00:00"), False),
        (Exposure(NOON), Exposure(), None),
        (Exposure(), Exposure(), None),
        (Exposure(NOON, image_id="x"), Exposure("2026-10-18T12:00:00", image_id="x"), True),
        (Exposure(NOON, image_id="x"), Exposure(NOON, image_id="y"), False),
    ],
)
def test_what_the_camera_says(one: Exposure, other: Exposure, same: bool | None) -> None:
    assert same_exposure(one, other) is same
    assert same_exposure(other, one) is same


def known(number: int, content: str, name: str | None = None, taken: str | None = None) -> Known:
    return Known(number, name or f"{number}.jpg", content, "p" + content, Exposure(taken))


def found(path: str, content: str, at: int | None = None, taken: str | None = None, **more: bool) -> Found:
    return Found("/" + path, path, content, "p" + content, Exposure(taken), at, **more)


def test_content_decides_wherever_it_lies() -> None:
    lost = [known(1, "a"), known(2, "b"), known(3, "c")]
    swapped = [found("1.jpg", "b", at=1), found("2.jpg", "a", at=2), found("sub/x.jpg", "c")]
    assert recognise(swapped, lost) == {"/1.jpg": 2, "/2.jpg": 1, "/sub/x.jpg": 3}


def test_of_the_same_content_each_keeps_its_name() -> None:
    lost = [known(1, "a", "old/1.jpg"), known(2, "a", "old/2.jpg")]
    assert recognise([found("new/2.jpg", "a"), found("new/1.jpg", "a")], lost) == {
        "/new/1.jpg": 1,
        "/new/2.jpg": 2,
    }
    assert recognise([found("new/2.jpg", "a")], lost) == {"/new/2.jpg": 2}
    assert recognise([found("new/9.jpg", "a")], lost[1:]) == {"/new/9.jpg": 2}


def test_the_same_path_is_not_the_same_frame() -> None:
    later = "2026-10-18T12:00:00.100"
    lost = [known(1, "a", taken=NOON + ".100")]
    assert recognise([found("1.jpg", "z", at=1, taken=later)], lost) == {}
    assert recognise([found("1.jpg", "z", at=1, taken=NOON + ".100")], lost) == {"/1.jpg": 1}
    assert recognise([found("1.jpg", "z", at=None, taken=NOON + ".100")], lost) == {}, "another path"


def test_without_camera_data_the_picture_decides() -> None:
    lost = [known(1, "a")]
    assert recognise([found("1.jpg", "z", at=1, alike=True)], lost) == {"/1.jpg": 1}
    assert recognise([found("1.jpg", "z", at=1, alike=False)], lost) == {}
    assert recognise([found("1.jpg", "z", at=1)], lost) == {}, "nothing says it is the same"


def test_of_a_frame_that_could_never_be_read_the_name_decides() -> None:
    lost = [Known(1, "1.jpg", "a", "pa", Exposure(), unread=True)]
    assert recognise([found("1.jpg", "z", at=1, taken=NOON)], lost) == {"/1.jpg": 1}
    assert recognise([found("1.jpg", "z", at=None, taken=NOON)], lost) == {}, "another path"


def test_a_corrected_clock_leaves_the_frame_what_it_is() -> None:
    """The pixels are the same to the byte: no second exposure has them."""
    lost = [Known(1, "1.jpg", "a", "pixels", Exposure(NOON + ".100"))]
    file = Found("/1.jpg", "1.jpg", "z", "pixels", Exposure("2026-10-17T13:00:00.100"), 1)
    assert recognise([file], lost) == {"/1.jpg": 1}


def test_versions_follow_the_content_alone() -> None:
    one = content_version("p", 1, Exposure(NOON))
    assert one == content_version("p", 1, Exposure(NOON))
    others = [
        content_version("q", 1, Exposure(NOON)),
        content_version("p", 6, Exposure(NOON)),
        content_version("p", 1, Exposure(NOON), "whole"),
    ]
    assert len({one, *others}) == 4
