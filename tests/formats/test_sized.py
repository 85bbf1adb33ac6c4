"""JPEGs of a size: as exiftool (Debian) and Pillow read them."""

from __future__ import annotations

import io
import json
import subprocess
from pathlib import Path

import numpy as np
import pytest
from PIL import Image, ImageCms, ImageFilter

from tests import photographs
from winnow.core.marks import Marks
from winnow.demo import dng
from winnow.formats.sized import Metadata, Sized, render

MARKED = Marks(
    rating=4,
    caption='{"x-default": "Kiln at dusk"}',
    creator='["J. Tarn", "M. Lind"]',
    copyright="© 2026 J. Tarn",
    label="Print",
)


@pytest.fixture
def original(tmp_path: Path) -> Path:
    """A wide photograph stored on its side, with what cameras say of it and where it was taken."""
    path = tmp_path / "WIN_0001.JPG"
    block = photographs.exif(orientation=6, Model="TARN 24", FNumber=2.8, Artist="somebody")
    block.get_ifd(0x8825)[1] = "N"
    photographs.photograph(0).resize((900, 600)).save(path, quality=95, exif=block)
    return path


def read(jpeg: bytes, tmp_path: Path) -> tuple[Image.Image, dict[str, object]]:
    (tmp_path / "out.jpg").write_bytes(jpeg)
    told = subprocess.run(["exiftool", "-j", "-n", tmp_path / "out.jpg"], capture_output=True, check=True)
    return Image.open(io.BytesIO(jpeg)), json.loads(told.stdout)[0]


def test_upright_in_srgb_and_all_that_is_to_be_said(original: Path, tmp_path: Path) -> None:
    picture, told = read(render(original, Sized(450), MARKED), tmp_path)
    assert picture.size == (300, 450)
    assert (told["Orientation"], told["ExifImageWidth"], told["ExifImageHeight"]) == (1, 300, 450)
    profile = ImageCms.ImageCmsProfile(io.BytesIO(picture.info["icc_profile"]))
    assert "sRGB" in ImageCms.getProfileDescription(profile)
    assert (told["Model"], told["FNumber"], told["GPSLatitudeRef"]) == ("TARN 24", 2.8, "N")
    assert (told["Rating"], told["Label"], told["Description"]) == (4, "Print", "Kiln at dusk")
    assert told["Creator"] == ["J. Tarn", "M. Lind"] and told["Artist"] == "J. Tarn; M. Lind"
    assert "ThumbnailImage" not in told


def test_contact_alone_and_nothing(original: Path, tmp_path: Path) -> None:
    _, told = read(render(original, Sized(450, metadata=Metadata.CONTACT), MARKED), tmp_path)
    assert (told["Artist"], told["Rights"], told["Copyright"]) == (
        "J. Tarn; M. Lind",
        "© 2026 J. Tarn",
        "© 2026 J. Tarn",
    )
    assert not {"Model", "GPSLatitudeRef", "Rating", "Description", "DateTimeOriginal"} & told.keys()
    picture, told = read(render(original, Sized(450, metadata=Metadata.NONE), MARKED), tmp_path)
    assert not picture.getexif() and "Creator" not in told
    assert picture.info["icc_profile"]


def test_pixels_are_those_of_pillow_and_sharper_when_wanted(original: Path) -> None:
    """Against Pillow's own area average (reducing box), within what JPEG and another filter differ by."""
    plain = np.asarray(Image.open(io.BytesIO(render(original, Sized(450, 95, False), Marks()))), float)
    reference = (
        Image.open(original).convert("RGB").rotate(-90, expand=True).resize((300, 450), Image.Resampling.BOX)
    )
    assert np.abs(plain - np.asarray(reference, float)).mean() < 3
    crisp = Image.open(io.BytesIO(render(original, Sized(450, 95), Marks())))
    edges = [
        np.asarray(p.convert("L").filter(ImageFilter.FIND_EDGES), float).std() for p in (reference, crisp)
    ]
    assert edges[1] > 1.05 * edges[0]
    turned = Image.open(io.BytesIO(render(original, Sized(450), Marks(turn=1))))
    assert turned.size == (450, 300)
    assert Image.open(io.BytesIO(render(original, Sized(2000), Marks()))).size == (600, 900)


def test_of_a_raw_file_and_of_another_space(tmp_path: Path) -> None:
    raw = tmp_path / "WIN_0002.DNG"
    raw.write_bytes(dng.from_jpeg(photographs.jpeg_bytes(photographs.photograph(1), exif=photographs.exif())))
    picture, told = read(render(raw, Sized(320), MARKED), tmp_path)
    assert max(picture.size) == 320 and told["Rating"] == 4
    for wrong in ({"long_edge": 10}, {"long_edge": 900, "quality": 5}):
        with pytest.raises(ValueError):
            Sized(**wrong)  # type: ignore[arg-type]
