"""Marks inside pictures: read by exiftool and exiv2 (Debian), the picture untouched, and back to the byte."""

from __future__ import annotations

import io
import json
import subprocess
from pathlib import Path
from typing import Any

import numpy as np
import pillow_heif
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image

from tests import photographs
from winnow.core.marks import Decision, Marks
from winnow.core.xmp_marks import to_xmp
from winnow.demo.layout import shipped_frames
from winnow.formats import xmp
from winnow.formats.inside import rewriting
from winnow.formats.splices import InsideError, Rewriting

WORDS = Marks(
    Decision.KEEP,
    4,
    "Kiln",
    0,
    '{"x-default": "Áith tine"}',
    None,
    '["clay", "tine"]',
    '["Íde Ní Bhriain"]',
    "© Íde",
)
PACKET = xmp.write_marks(None, to_xmp(WORDS))


def exiftool(path: Path) -> dict[str, Any]:
    read = subprocess.run(["exiftool", "-j", "-G1", "-struct", path], capture_output=True, check=True)
    found: dict[str, Any] = json.loads(read.stdout)[0]
    return found


def jpeg(path: Path, *said: str) -> Path:
    photographs.save(path, 1)
    if said:
        subprocess.run(["exiftool", "-q", "-overwrite_original", *said, path], check=True)
    return path


def tiff(path: Path, *, big_endian: bool = False) -> Path:
    pixels = np.arange(3000, dtype=np.uint8).reshape(20, 50, 3)
    Image.fromarray(pixels).save(path, "TIFF")
    if big_endian:
        subprocess.run(
            ["exiftool", "-q", "-overwrite_original", "-ExifByteOrder=MM", "-Artist=x", path], check=True
        )
    return path


def pixels(path: Path) -> bytes:
    with Image.open(path) as picture:
        return picture.convert("RGB").tobytes()


def heif(path: Path, caption: str = "") -> Path:
    pixels = np.random.default_rng(3).integers(0, 255, (96, 128, 3), np.uint8)
    old = xmp.write_marks(None, to_xmp(Marks(rating=1, headline=caption or None)))
    pillow_heif.from_pillow(Image.fromarray(pixels)).save(path, xmp=old)
    return path


pillow_heif.register_heif_opener()

CASES = {
    "plain JPEG": lambda p: jpeg(p / "a.jpg"),
    "JPEG with XMP": lambda p: jpeg(p / "a.jpg", "-XMP-dc:Title=Old", "-XMP-xmp:Rating=1"),
    "JPEG with IIM": lambda p: jpeg(p / "a.jpg", "-IPTC:Caption-Abstract=old", "-IPTC:Keywords=x"),
    "HEIF with XMP": lambda p: heif(p / "a.heic", "long " * 200),
    "HEIF with a small packet": lambda p: heif(p / "b.heic"),
    "TIFF": lambda p: tiff(p / "a.tif"),
    "TIFF, big-endian": lambda p: tiff(p / "a.tif", big_endian=True),
}


@pytest.mark.parametrize("make", CASES.values(), ids=CASES)
def test_marks_stand_inside_and_the_picture_is_what_it_was(make, tmp_path: Path) -> None:  # type: ignore[no-untyped-def]
    path = make(tmp_path)
    before, seen = path.read_bytes(), pixels(path)
    made = Rewriting.unpacked(rewriting(path.name, before, PACKET, WORDS).packed())
    path.write_bytes(made.apply(before))
    told = exiftool(path)
    assert (told["XMP-xmp:Rating"], told["XMP-xmp:Label"]) == (4, "Kiln")
    assert told["XMP-dc:Subject"] == ["clay", "tine"] and "Warning" not in str(told.keys())
    assert pixels(path) == seen
    checked = subprocess.run(
        ["exiv2", "-q", "-K", "Xmp.xmp.Rating", "-Pv", path], capture_output=True, text=True
    )
    assert checked.stdout.strip() == "4"
    validated = subprocess.run(
        ["exiftool", "-validate", "-warning", "-error", "-a", "-s", path], capture_output=True
    )
    assert b"Error" not in validated.stdout
    again = rewriting(path.name, path.read_bytes(), PACKET, WORDS)
    twice = again.apply(path.read_bytes())
    assert again.back(twice) == path.read_bytes()
    assert made.back(path.read_bytes()) == before
    with pytest.raises(InsideError, match="not the one"):
        made.apply(b"x" * 10 + before)


def test_iim_is_kept_in_step_where_it_is_there(tmp_path: Path) -> None:
    """Metadata Working Group, Guidelines for Handling Image Metadata 2.0: written where it is; UTF-8, and said so."""
    path = jpeg(
        tmp_path / "a.jpg", "-charset", "iptc=Latin", "-IPTC:City=Áth Cliath", "-IPTC:Caption-Abstract=old"
    )
    made = rewriting(path.name, path.read_bytes(), PACKET, WORDS)
    path.write_bytes(made.apply(path.read_bytes()))
    told = exiftool(path)
    assert told["IPTC:Caption-Abstract"] == "Áith tine" and told["IPTC:Keywords"] == ["clay", "tine"]
    assert told["IPTC:City"] == "Áth Cliath" and told["IPTC:CodedCharacterSet"] == "UTF8"
    assert told["IPTC:By-line"] == "Íde Ní Bhriain" and told["IPTC:CopyrightNotice"] == "© Íde"
    digest = subprocess.run(
        ["exiftool", "-s3", "-IPTCDigest", "-CurrentIPTCDigest", path], capture_output=True
    )
    assert len(set(digest.stdout.split())) <= 1
    plain = jpeg(tmp_path / "b.jpg")
    assert b"Photoshop" not in rewriting(plain.name, plain.read_bytes(), PACKET, WORDS).apply(
        plain.read_bytes()
    )


def test_what_cannot_be_done_without_harm_is_refused(tmp_path: Path) -> None:
    path = jpeg(tmp_path / "a.jpg")
    for name, data, packet, said in (
        ("a.jpg", path.read_bytes(), b"x" * 70_000, "64 KB"),
        ("a.jpg", b"no picture", PACKET, "no JPEG"),
        ("a.tif", path.read_bytes(), PACKET, "no TIFF"),
        ("a.nef", path.read_bytes(), PACKET, "write sidecars"),
        ("a.heic", path.read_bytes(), PACKET, "boxes are damaged"),
        ("a.jpg", path.read_bytes()[:300], PACKET, "damaged"),
    ):
        with pytest.raises(InsideError, match=said):
            rewriting(name, data, packet, WORDS)


@settings(max_examples=200, deadline=None)
@given(st.data())
def test_no_damage_crashes_it_or_touches_the_scan(data: st.DataObject) -> None:
    name = data.draw(st.sampled_from(["a.jpg", "a.tif"]))
    out = io.BytesIO()
    Image.fromarray(np.zeros((8, 8, 3), np.uint8)).save(out, "JPEG" if name == "a.jpg" else "TIFF")
    whole = bytearray(out.getvalue())
    for _ in range(data.draw(st.integers(0, 3))):
        whole[data.draw(st.integers(0, len(whole) - 1))] = data.draw(st.integers(0, 255))
    damaged = bytes(whole[: data.draw(st.integers(len(whole) // 2, len(whole)))])
    try:
        made = rewriting(name, damaged, PACKET, WORDS)
    except InsideError as error:
        assert str(error)
        return
    assert made.back(made.apply(damaged)) == damaged


def test_the_shipped_frames_take_marks() -> None:
    """As cameras and other programs wrote them, with profiles, thumbnails, previews."""
    for path in sorted(shipped_frames().rglob("*"))[::12]:
        if path.suffix.lower() in (".jpg", ".dng", ".tif"):
            data = path.read_bytes()
            made = rewriting(path.name, data, PACKET, WORDS)
            assert made.back(made.apply(data)) == data
