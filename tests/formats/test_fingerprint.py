"""Fingerprints against files that exiftool rewrites, and against a hash worked out here."""

from __future__ import annotations

import hashlib
import subprocess
from pathlib import Path

import numpy as np
import pytest
from PIL import Image

from tests import photographs
from winnow.formats.fingerprint import content_of, digest_of_all, fingerprint_of


def test_the_content_is_what_the_standard_hash_says(tmp_path: Path) -> None:
    """BLAKE2b (RFC 7693) of 128 bits over the size and both ends."""
    data = np.random.default_rng(1).bytes(300_000)
    (tmp_path / "a.nef").write_bytes(data)
    wanted = hashlib.blake2b(str(len(data)).encode() + data[:65536] + data[-65536:], digest_size=16)
    assert content_of(tmp_path / "a.nef") == wanted.hexdigest()
    assert fingerprint_of(tmp_path / "a.nef").content == wanted.hexdigest()


@pytest.mark.parametrize("size", [0, 1, 1000, 65536, 65537, 131072, 200_000])
def test_any_size_and_any_change_at_the_ends(tmp_path: Path, size: int) -> None:
    data = bytearray(np.random.default_rng(size).bytes(size))
    path = tmp_path / "a.bin"
    path.write_bytes(data)
    before, whole = fingerprint_of(path), digest_of_all(path)
    assert fingerprint_of(path) == before
    if size:
        data[-1] ^= 1
        path.write_bytes(data)
        assert fingerprint_of(path) != before and digest_of_all(path) != whole


def test_tags_leave_the_picture_what_it_is(tmp_path: Path) -> None:
    """What exiftool writes: stars, a caption, another time, a thumbnail taken out."""
    path = photographs.save(tmp_path / "a.jpg", 4)
    before = fingerprint_of(path)
    for change in (
        ["-XMP-xmp:Rating=4"],
        ["-XMP-dc:Description=A long caption" + "." * 5000],
        ["-AllDates=2026:10:18 09:00:00"],
        ["-Orientation#=6"],
        ["-Comment=written later"],
    ):
        subprocess.run(["exiftool", "-q", "-overwrite_original", *change, path], check=True)
        after = fingerprint_of(path)
        assert after.picture == before.picture, change
        assert after.content != before.content
    with Image.open(path) as picture:
        pixels = np.asarray(picture)
    assert np.array_equal(pixels, np.asarray(Image.open(photographs.save(tmp_path / "b.jpg", 4))))


def test_another_picture_is_another(tmp_path: Path) -> None:
    one = photographs.save(tmp_path / "a.jpg", 4)
    shifted = photographs.save(tmp_path / "b.jpg", 4, shift=1)
    assert fingerprint_of(one).picture != fingerprint_of(shifted).picture
    Image.open(one).save(tmp_path / "c.jpg", quality=50, exif=Image.open(one).getexif())
    assert fingerprint_of(one).picture != fingerprint_of(tmp_path / "c.jpg").picture


@pytest.mark.parametrize(
    "data",
    [
        b"\xff\xd8",
        b"\xff\xd8\xff\xe1",
        b"\xff\xd8\xff\xe1\x00\x00",
        b"\xff\xd8" + b"\xff" * 50,
        b"\xff\xd8ab",
    ],
)
def test_broken_jpegs_go_by_their_content(tmp_path: Path, data: bytes) -> None:
    path = tmp_path / "a.jpg"
    path.write_bytes(data)
    found = fingerprint_of(path)
    assert found.picture == found.content
