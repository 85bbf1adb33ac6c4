"""Pairing files into frames, names, order, orientation, filters."""

from __future__ import annotations

from itertools import pairwise
from unicodedata import normalize

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from winnow.core.capture import from_tags
from winnow.core.file_names import renamed
from winnow.core.naming import TakenNames, common_base
from winnow.core.order import Stamp, arrange, natural_key, split_by_gaps
from winnow.core.orientation import upright, upright_size
from winnow.core.pairing import FrameFiles, pair, role_of, sidecar_name
from winnow.core.progress import Pace


# Source: DCF (CIPA DC-009): the same number is the same object in another format.
def test_raw_and_jpeg_of_one_number_are_one_frame() -> None:
    frames = pair(["ABCD0001.JPG", "ABCD0001.NEF", "ABCD0002.JPG", "ABCD0001.xmp", "NOTES.TXT"])
    assert [(f.raw, f.picture, f.sidecars) for f in frames] == [
        ("ABCD0001.NEF", "ABCD0001.JPG", ["ABCD0001.xmp"]),
        (None, "ABCD0002.JPG", []),
    ]


def test_an_export_is_a_frame_of_its_own() -> None:
    assert len(pair(["A1.JPG", "A1.TIF", "A1.PNG"])) == 3


def test_sidecars_go_to_the_file_they_are_named_after() -> None:
    frames = {f.shown: f for f in pair(["a.jpg", "a.png", "a.png.xmp", "a.xmp", "b.xmp"])}
    assert frames["a.png"].sidecars == ["a.png.xmp"]
    assert frames["a.jpg"].sidecars == ["a.xmp"]


def test_accents_may_be_composed_otherwise() -> None:
    """Unicode 15, 3.11: canonical equivalents are one text. Older Macs write names decomposed, most others not."""
    raw, picture = normalize("NFD", "Müller 1.NEF"), normalize("NFC", "Müller 1.JPG")
    sidecar = normalize("NFC", "Müller 1.NEF.xmp")
    assert [(f.raw, f.picture, f.sidecars) for f in pair([raw, picture, sidecar])] == [
        (raw, picture, [sidecar])
    ]
    assert sidecar_name(FrameFiles(picture=picture), [normalize("NFD", "Müller 1.PNG")]) == f"{picture}.xmp"


def test_sidecar_to_write() -> None:
    assert sidecar_name(FrameFiles(raw="A.NEF", picture="A.JPG"), ["A.NEF", "A.JPG"]) == "A.xmp"
    assert sidecar_name(FrameFiles(picture="A.JPG"), ["A.JPG", "A.PNG"]) == "A.JPG.xmp"
    assert sidecar_name(FrameFiles(picture="A.JPG", sidecars=["A.JPG.xmp"]), []) == "A.JPG.xmp"


@pytest.mark.parametrize("name", [".hidden.jpg", "jpg", "a.txt", ".jpg"])
def test_files_of_no_use(name: str) -> None:
    assert role_of(name) is None


def test_natural_order() -> None:
    names = ["DSC_10.JPG", "dsc_2.jpg", "DSC_1.JPG"]
    assert sorted(names, key=natural_key) == ["DSC_1.JPG", "dsc_2.jpg", "DSC_10.JPG"]
    accents = ["Zoe", "Eva", "\u00c9va", "E\u0301va 2", "Fritz"]
    assert sorted(accents, key=natural_key) == ["Eva", "\u00c9va", "E\u0301va 2", "Fritz", "Zoe"]


@given(st.lists(st.text(max_size=12), max_size=8))
def test_natural_keys_always_compare(names: list[str]) -> None:
    keys = [natural_key(name) for name in sorted(names, key=natural_key)]
    assert all(before <= after for before, after in pairwise(keys))


def test_capture_order_with_subseconds_offsets_and_missing_times() -> None:
    frames = [
        Stamp(1, "2026-10-17T16:00:00.900+01:00", "b/3.jpg"),
        Stamp(2, "2026-10-17T16:00:00.100+01:00", "b/4.jpg"),
        Stamp(3, "2026-10-17T15:00:00.500+00:00", "a/1.jpg"),  # the same hour, another zone
        Stamp(4, "2026-10-17T16:00:00.500", "a/2.jpg"),  # no zone: the usual one of the shoot
        Stamp(5, None, "b/3a.jpg"),  # no time: right after the name before it
    ]
    assert [p.frame_id for p in arrange(frames)] == [2, 3, 4, 1, 5]


def test_clocks_that_are_ahead_are_set_back() -> None:
    frames = [
        Stamp(1, "2026-10-17T16:03:20", "a/1.jpg", "ahead"),
        Stamp(2, "2026-10-17T16:00:01", "b/1.jpg", "right"),
    ]
    assert [p.frame_id for p in arrange(frames)] == [2, 1]
    assert [p.frame_id for p in arrange(frames, {"ahead": 200.0})] == [1, 2]


def test_a_pause_makes_a_group_and_a_long_one_a_scene() -> None:
    times = [0, 2, 4, 30, 32, 34, 36, 4000, 4002, 4004]
    splits = split_by_gaps([float(t) for t in times])
    assert [group for _, group in splits] == [0, 0, 0, 1, 1, 1, 1, 2, 2, 2]
    assert [scene for scene, _ in splits] == [0] * 7 + [1] * 3


def test_missing_times_do_not_split() -> None:
    assert split_by_gaps([0.0, None, 2.0, None]) == [(0, 0)] * 4
    assert split_by_gaps([None, None]) == [(0, 0)] * 2


# Source: CIPA DC-008 (Exif), tag 0x0112: where row 0 and column 0 lie in the scene.
@pytest.mark.parametrize(
    ("code", "row0", "column0"),
    [
        (1, "top", "left"),
        (2, "top", "right"),
        (3, "bottom", "right"),
        (4, "bottom", "left"),
        (5, "left", "top"),
        (6, "right", "top"),
        (7, "right", "bottom"),
        (8, "left", "bottom"),
    ],
)
def test_orientation_by_the_table_of_the_standard(code: int, row0: str, column0: str) -> None:
    scene = np.arange(12, dtype=np.uint8).reshape(3, 4, 1)
    sides = {
        "top": scene[0],
        "bottom": scene[-1],
        "left": scene[:, 0],
        "right": scene[:, -1],
    }
    stored = next(
        s
        for k in range(4)
        for s in (np.rot90(scene, k), np.rot90(scene[:, ::-1], k))
        if _same_side(s[0], sides[row0]) and _same_side(s[:, 0], sides[column0])
    )
    assert np.array_equal(upright(np.ascontiguousarray(stored), code), scene)
    assert upright_size(stored.shape[1], stored.shape[0], code) == (4, 3)


def _same_side(line: np.ndarray, side: np.ndarray) -> bool:
    return sorted(line.ravel()) == sorted(side.ravel())


def test_free_names_keep_a_frame_together() -> None:
    names = ["A.NEF", "A.JPG", "A.JPG.xmp"]
    assert common_base(names) == "A"
    assert TakenNames({"b.jpg"}).take(names, "A") == names
    taken = TakenNames({"a.jpg", "a-2.nef"})
    assert taken.take(names, "A") == ["A-3.NEF", "A-3.JPG", "A-3.JPG.xmp"]
    assert taken.take(names, "A") == ["A-4.NEF", "A-4.JPG", "A-4.JPG.xmp"]
    assert taken.take(["A-4.JPG"], "A-4") == ["A-4-2.JPG"]


def test_names_of_a_frame_may_differ_in_case_and_in_how_accents_are_composed() -> None:
    """A disk or a program may have written one of them so (Unicode 15, 3.13 and 3.11)."""
    names = ["K\u00fcste.NEF", "kuste.JPG".replace("u", "u\u0308"), "K\u00dcSTE.NEF.xmp"]
    base = common_base(names)
    assert [renamed(name, base, "new") for name in names] == ["new.NEF", "new.JPG", "new.NEF.xmp"]
    assert TakenNames().take(names, base) == names
    assert TakenNames([names[0]]).take(names, base) == [
        "K\u00fcste-2.NEF",
        "ku\u0308ste-2.JPG",
        "K\u00dcSTE-2.NEF.xmp",
    ]


def test_capture_tags_that_make_no_sense_are_left_out() -> None:
    found = from_tags(
        {
            "DateTimeOriginal": "2026:13:45 99:00:00",
            "ExposureTime": 0,
            "FNumber": float("nan"),
            "ISOSpeedRatings": (400, 0),
            "Orientation": 77,
            "Make": "Tarn\0rubbish",
            "Model": "Tarn T2",
        }
    )
    assert found.captured_at is None
    assert found.shutter_s is None
    assert found.aperture is None
    assert (found.iso, found.orientation, found.camera) == (400, 1, "Tarn T2")


def test_pace() -> None:
    pace = Pace()
    pace.note(0, 0)
    assert pace.rate() is None
    pace.note(2, 10)
    assert pace.rate() == 5
    assert pace.seconds_left(50) == 10
