"""Colour spaces of files. The reference is littleCMS, which Pillow calls, with its own sRGB; a browser test holds our
profiles against what Chromium makes of the same spaces."""

from __future__ import annotations

import io
import subprocess
from pathlib import Path

import numpy as np
import pytest
from PIL import Image, ImageCms

from winnow.formats import images
from winnow.formats.colour import Colours, is_wide, name_of
from winnow.formats.icc import ADOBE_RGB, DISPLAY_P3, matrix_profile
from winnow.pipeline import tasks
from winnow.pipeline.cache import Cache, Kind

SRGB = ImageCms.createProfile("sRGB")
REC_709 = ((0.64, 0.33), (0.30, 0.60), (0.15, 0.06))
SRGB_CURVE = (2.4, 1 / 1.055, 0.055 / 1.055, 1 / 12.92, 0.04045)
RED = (245, 30, 25)


def flat(colour: tuple[int, int, int] = RED) -> Image.Image:
    return Image.new("RGB", (640, 480), colour)


def middle(jpeg: bytes) -> list[int]:
    return [int(value) for value in np.asarray(Image.open(io.BytesIO(jpeg)))[200, 300]]


def derived(path: Path, tmp_path: Path) -> Cache:
    task = tasks.DeriveTask(1, str(path), str(tmp_path), "ab12", str(tmp_path / "cache"))
    assert tasks.prepare(tasks.PrepareTask(task, None)).problem is None
    assert tasks.derive_plain(task).problem is None
    assert tasks.develop_full(task).problem is None
    return Cache(tmp_path / "cache")


def test_a_profile_from_primaries_is_that_space() -> None:
    """sRGB by its primaries and curve (IEC 61966-2-1) is littleCMS's own sRGB."""
    ours = ImageCms.ImageCmsProfile(io.BytesIO(matrix_profile("test", REC_709, SRGB_CURVE)))
    steps = np.random.default_rng(3).integers(0, 256, (64, 64, 3), np.uint8)
    there = ImageCms.profileToProfile(Image.fromarray(steps), ours, SRGB)
    assert there is not None and np.abs(np.asarray(there).astype(int) - steps).max() <= 1


def test_which_spaces_go_beyond_srgb() -> None:
    assert is_wide(DISPLAY_P3) and is_wide(ADOBE_RGB)
    assert (
        not is_wide(matrix_profile("a screen", REC_709, (2.2,)))
        and not is_wide(None)
        and not is_wide(b"none")
    )
    assert (name_of(DISPLAY_P3), name_of(ADOBE_RGB)) == ("Display P3", "Adobe RGB (1998)")


@pytest.mark.parametrize("kind", ["jpg", "png", "tif"])
def test_a_wide_file_is_shown_in_all_its_colours(tmp_path: Path, kind: str) -> None:
    path = tmp_path / f"a.{kind}"
    flat().save(path, icc_profile=DISPLAY_P3, **({"quality": 97} if kind == "jpg" else {}))
    head = images.read_head(path)
    assert (head.space, head.profiled) == ("Display P3", True)
    kept = derived(path, tmp_path)
    for which in (Kind.PREVIEW, Kind.THUMB, Kind.FULL):
        made = kept.read(which, "ab12")
        assert made and Image.open(io.BytesIO(made)).info["icc_profile"] == DISPLAY_P3
        assert middle(made) == pytest.approx(RED, abs=3)
    plain = kept.read(Kind.PLAIN, "ab12")
    assert plain and "icc_profile" not in Image.open(io.BytesIO(plain)).info
    assert middle(plain) == pytest.approx(RED, abs=3)
    # What is measured is in sRGB: this red is more than it holds.
    assert images.decode(path).pixels[200, 300][0] == 255
    assert images.decode(path, colours=Colours.WIDE).wide


def test_a_file_in_srgb_is_as_it_was(tmp_path: Path) -> None:
    path = tmp_path / "a.jpg"
    flat().save(path, quality=97)
    assert (images.read_head(path).space, images.read_head(path).profiled) == (None, False)
    made = derived(path, tmp_path).read(Kind.PREVIEW, "ab12")
    assert made and "icc_profile" not in Image.open(io.BytesIO(made)).info
    assert middle(made) == pytest.approx(RED, abs=3)


def test_a_space_that_is_told_in_exif_alone(tmp_path: Path) -> None:
    """Cameras name Adobe RGB by the interoperability index R03 (DCF 2.0) and put no profile into the file."""
    path = tmp_path / "_A.jpg"
    flat((90, 200, 90)).save(path, quality=97)
    subprocess.run(["exiftool", "-q", "-overwrite_original", "-InteropIndex#=R03", path], check=True)
    head = images.read_head(path)
    assert (head.space, head.as_is) == ("Adobe RGB (1998)", False), "a browser would take it for sRGB"
    there = ImageCms.profileToProfile(
        flat((90, 200, 90)), ImageCms.ImageCmsProfile(io.BytesIO(ADOBE_RGB)), SRGB
    )
    assert there is not None
    assert images.decode(path).pixels[200, 300].astype(int) == pytest.approx(np.asarray(there)[0, 0], abs=3)
