"""Pictures that are turned: in sidecars, by what exiftool and exiv2 read; on screen, by what Pillow shows."""

from __future__ import annotations

import io
import subprocess
from pathlib import Path

import numpy as np
import pytest
from PIL import Image, ImageOps

from tests.formats.test_xmp import exiftool, exiv2
from winnow.core.labels import FIRST
from winnow.core.marks import UNMARKED, Decision, Field, Marks
from winnow.core.orientation import turn_between, turned, turned_point, turned_size, upright
from winnow.core.turning import Turned
from winnow.core.xmp_marks import from_xmp, stated, to_xmp
from winnow.formats import xmp
from winnow.formats.display import shown_as
from winnow.handoff import sidecars
from winnow.store.labels import as_json, from_json

LABELS = as_json(FIRST)["labels"]
SCENE = np.arange(3 * 4 * 3, dtype=np.uint8).reshape(3, 4, 3)


@pytest.mark.parametrize("code", range(1, 9))
def test_a_code_turned_on_is_the_picture_turned_on(code: int) -> None:
    """Against NumPy's rotation of what the code makes of a stored picture."""
    for turn in range(4):
        wanted = np.rot90(upright(SCENE, code), -turn)
        assert np.array_equal(upright(SCENE, turned(code, turn)), wanted)
        assert turn_between(code, turned(code, turn)) == turn
        height, width = upright(SCENE, code).shape[:2]
        assert turned_size(width, height, turn) == (wanted.shape[1], wanted.shape[0])
        x, y = turned_point(1, 0, width, height, turn)
        assert np.array_equal(wanted[int(y), int(x)], upright(SCENE, code)[0, 1])
        assert Turned(turn, width, height).back(x, y) == (1, 0)


def test_places_on_a_turned_picture() -> None:
    right = Turned(1, 600, 400)
    assert right.box((10, 20, 110, 220)) == (179, 10, 379, 110)
    assert right.share((0.25, 0.1)) == pytest.approx((0.9, 0.25))
    assert right.tiles([[1.0, 2.0, None], [4.0, 5.0, 6.0]]) == [[4.0, 1.0], [5.0, 2.0], [6.0, None]]
    assert (right.angle(30), Turned(0, 6, 4).angle(30)) == (120, 30)


@pytest.mark.parametrize("own", [1, 6, 7])
def test_sidecars_say_it_to_others_and_others_to_us(tmp_path: Path, own: int) -> None:
    """own: what the file says. exiftool (Debian) and exiv2 (Debian) read ours, and exiftool changes it."""
    path = tmp_path / "a.xmp"
    marks = Marks(Decision.KEEP, 2, "Retouch", 1)
    path.write_bytes(xmp.write_marks(None, to_xmp(marks, own)))
    assert exiftool(path)["XMP-tiff:Orientation"] == turned(own, 1)
    assert exiv2(path)["Xmp.tiff.Orientation"] == str(turned(own, 1))
    assert from_xmp(xmp.read_marks(path.read_bytes()), own) == marks
    left = turned(own, 3)
    subprocess.run(
        ["exiftool", "-q", "-n", "-overwrite_original", f"-XMP-tiff:Orientation={left}", path], check=True
    )
    found = xmp.read_marks(path.read_bytes())
    assert stated(found, own)[Field.TURN] == 3
    assert Field.TURN not in stated(found, None), "of a picture of which it is not known, nothing is heard"
    # Taken back here, it says again what the file says; the rest of the packet stays.
    held = from_xmp(found, own)
    built = sidecars.build(str(path), Marks(Decision.KEEP, 2, "Retouch"), held, frozenset(Field), FIRST, own)
    assert built.recipe is not None
    path.write_bytes(built.recipe.build(path.read_bytes() if path.exists() else None))
    assert exiftool(path)["XMP-tiff:Orientation"] == own
    # Of a picture that nobody turned, a new sidecar says nothing.
    assert to_xmp(UNMARKED, own).orientation is None


def test_labels_go_out_by_their_text_and_come_back_by_it(tmp_path: Path) -> None:
    path = tmp_path / "a.xmp"
    text = {"labels": [{**label, "texts": {"press": "Rot"}} for label in LABELS[:1]], "program": "press"}
    named = from_json(text)
    built = sidecars.build(str(path), Marks(label="Retouch"), UNMARKED, frozenset(Field), named)
    assert built.recipe is not None
    path.write_bytes(built.recipe.build(path.read_bytes() if path.exists() else None))
    assert exiftool(path)["XMP-xmp:Label"] == "Rot" and exiv2(path)["Xmp.xmp.Label"] == "Rot"
    subprocess.run(["exiftool", "-q", "-overwrite_original", "-XMP-xmp:Label=rot", path], check=True)
    assert sidecars.marks_in(path.read_bytes(), named, None).label == "Retouch"


@pytest.mark.parametrize("code", range(1, 9))
def test_a_served_picture_is_shown_by_the_code_it_is_given(code: int) -> None:
    """Against Pillow's reading of Exif; the pixels and the profile are untouched."""
    picture = Image.fromarray(np.kron(SCENE, np.ones((16, 16, 1), np.uint8)))
    exif = Image.Exif()
    exif[0x0112], exif[0x010F] = 8, "Tarn"
    file = io.BytesIO()
    picture.save(file, "JPEG", quality=95, exif=exif, icc_profile=b"a profile")
    found = Image.open(io.BytesIO(shown_as(file.getvalue(), code)))
    assert found.getexif()[0x0112] == code and found.info["icc_profile"] == b"a profile"
    stored = np.asarray(Image.open(file))
    assert np.array_equal(np.asarray(found), stored)
    assert np.array_equal(np.asarray(ImageOps.exif_transpose(found)), upright(stored, code))
    assert shown_as(b"no picture", code) == b"no picture"
