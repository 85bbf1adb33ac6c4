"""The camera's own preview, read by its place in the file."""

from __future__ import annotations

import io
import os
import subprocess
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image, ImageOps

from tests import photographs
from winnow.bench.camera_preview import PREVIEW_HD, with_preview
from winnow.formats.first_look import first_look, thumbnail
from winnow.formats.images import decode

DISPARITY = 0x020002
"""MP type code of one half of a stereo pair (CIPA DC-007)."""


def pair(orientation: int = 1, edge: int = 1600, shape: float = 1.5) -> tuple[bytes, bytes]:
    """A picture of 2,400 px that is turned by its Exif, and a preview as a camera writes it, not turned."""
    main = photographs.photograph(2).resize((2400, 1600))
    preview = main.resize((edge, round(edge / shape)))
    exif = photographs.exif(orientation=orientation)
    return photographs.jpeg_bytes(main, exif=exif), photographs.jpeg_bytes(preview, quality=70)


def written(folder: Path, jpeg: bytes) -> Path:
    path = folder / "WIN_0001.JPG"
    path.write_bytes(jpeg)
    return path


@pytest.mark.parametrize("orientation", range(1, 9))
def test_the_preview_shows_what_the_picture_shows(tmp_path: Path, orientation: int) -> None:
    """Turned as a browser turns it, by its Exif (here: Pillow), it is the picture, smaller."""
    path = written(tmp_path, with_preview(*pair(orientation)))
    found = first_look(path)
    assert found is not None
    with Image.open(io.BytesIO(found)) as preview:
        shown = np.asarray(ImageOps.exif_transpose(preview).resize((60, 60)), np.float64)
    whole = decode(path).pixels
    assert np.abs(shown - np.asarray(Image.fromarray(whole).resize((60, 60)), np.float64)).mean() < 4


def test_a_file_with_a_preview_stays_a_jpeg_for_others(tmp_path: Path) -> None:
    """Pillow knows the format by itself, and finds both pictures."""
    path = written(tmp_path, with_preview(*pair()))
    with Image.open(path) as picture:
        assert (picture.format, picture.n_frames, picture.size) == ("MPO", 2, (2400, 1600))
        picture.seek(1)
        assert picture.size == (1600, 1067)


def test_nothing_else_is_read(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """Of a file of many megabytes only the head and the preview."""
    jpeg, preview = pair()
    padded = jpeg + os.urandom(20_000_000)
    path = written(tmp_path, with_preview(padded, preview))
    before = _bytes_read()
    assert first_look(path) == preview
    assert _bytes_read() - before < len(preview) + 500_000


def _bytes_read() -> int:
    """Bytes this process has read, from the kernel (proc(5), rchar)."""
    return int(Path("/proc/self/io").read_text().split()[1])


@pytest.mark.parametrize(
    "jpeg",
    [
        pair()[0],
        with_preview(*pair(edge=640)),
        with_preview(*pair(shape=1.2)),
        with_preview(*pair(), kind=DISPARITY),
        with_preview(*pair())[:-40_000],
        b"\xff\xd8\xff",
    ],
    ids=[
        "none",
        "for the camera's screen only",
        "of another shape",
        "a stereo pair",
        "cut off",
        "no picture",
    ],
)
def test_what_is_no_preview_is_not_shown(tmp_path: Path, jpeg: bytes) -> None:
    found = first_look(written(tmp_path, jpeg))
    if found is not None:
        Image.open(io.BytesIO(found)).load()  # what is cut off is as good as it can be, or nothing
    assert found is None


@settings(max_examples=150, deadline=None)
@given(place=st.integers(0, 1200), content=st.binary(min_size=1, max_size=12))
def test_damaged_heads_harm_nobody(
    tmp_path_factory: pytest.TempPathFactory, place: int, content: bytes
) -> None:
    whole = bytearray(WHOLE)
    whole[place : place + len(content)] = content
    path = tmp_path_factory.getbasetemp() / "damaged.JPG"
    path.write_bytes(whole)
    found = first_look(path)
    assert found is None or found[:2] == b"\xff\xd8"


WHOLE = with_preview(*pair(6), kind=PREVIEW_HD)


@pytest.mark.parametrize("orientation", range(1, 9))
def test_the_thumbnail_shows_what_the_picture_shows(tmp_path: Path, orientation: int) -> None:
    main = photographs.photograph(2).resize((1200, 800))
    small = photographs.jpeg_bytes(main.resize((160, 107)), quality=80)
    path = with_thumbnail(tmp_path, main, small, orientation)
    found = thumbnail(path)
    assert found is not None and len(found) < len(small) + 100, "as it lies in the file"
    with Image.open(io.BytesIO(found)) as picture:
        seen = np.asarray(ImageOps.exif_transpose(picture).convert("RGB"), np.int16)
    whole = decode(path)
    assert (seen.shape[0] > seen.shape[1]) == (whole.full_height > whole.full_width)
    expected = np.asarray(Image.fromarray(whole.pixels).resize(seen.shape[1::-1]), np.int16)
    assert np.abs(seen - expected).mean() < 8


def test_no_thumbnail_or_a_broken_one_is_none(tmp_path: Path) -> None:
    main = photographs.photograph(2).resize((1200, 800))
    assert thumbnail(written(tmp_path, photographs.jpeg_bytes(main, exif=photographs.exif()))) is None
    broken = photographs.jpeg_bytes(main.resize((160, 107)))[:300]
    assert thumbnail(with_thumbnail(tmp_path, main, broken)) is None


def with_thumbnail(folder: Path, main: Image.Image, small: bytes, orientation: int = 1) -> Path:
    """A picture with a thumbnail in its Exif, put there by exiftool."""
    path = written(folder, photographs.jpeg_bytes(main, exif=photographs.exif(orientation=orientation)))
    (folder / "small.jpg").write_bytes(small)
    command = ["exiftool", "-q", "-overwrite_original", f"-ThumbnailImage<={folder / 'small.jpg'}", path]
    subprocess.run(command, check=True)
    return path
