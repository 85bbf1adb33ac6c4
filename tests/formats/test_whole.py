"""A picture as planes and as RGB: the same picture, and the same evidence.

References: Pillow's own decoder, which hands out the planes of a JPEG before they are turned into RGB; scikit-image's
PSNR.
"""

from __future__ import annotations

import io
from pathlib import Path

import numpy as np
import pytest
from PIL import Image, ImageCms
from skimage.metrics import peak_signal_noise_ratio

from tests import photographs, wallpapers
from tests.formats.test_images import swapped_profile
from winnow.core.evidence import Evidence, Sheet, measure
from winnow.core.exposure import verdict as exposure_verdict
from winnow.core.focus.verdict import judge_focus
from winnow.core.picture import Planes, Rgb
from winnow.formats import images, planes
from winnow.formats.fingerprint import digest_of_all
from winnow.formats.whole import Whole, read_whole
from winnow.pipeline.tasks import face_nets

SUBSAMPLINGS = {"4:4:4": 0, "4:2:2": 1, "4:2:0": 2}
"""In Pillow's numbers."""


def written(folder: Path, picture: Image.Image, **how: object) -> Path:
    path = folder / f"{len(list(folder.iterdir()))}.jpg"
    picture.save(path, quality=92, **how)  # type: ignore[arg-type]
    return path


def even(number: int = 0) -> Image.Image:
    """A photograph whose sides are even, as those of all cameras are."""
    return with_even_sides(photographs.photograph(number))


def with_even_sides(whole: Image.Image) -> Image.Image:
    return whole.crop((0, 0, whole.width // 2 * 2, whole.height // 2 * 2))


def as_rgb(path: Path, monkeypatch: pytest.MonkeyPatch) -> Whole:
    """As on a system without the library."""
    with monkeypatch.context() as there:
        there.setattr(planes, "library", lambda: None)
        return read_whole(path)


def test_the_library_is_there() -> None:
    """Else all that follows would compare RGB with itself."""
    assert planes.library() is not None


@pytest.mark.parametrize("subsampling", SUBSAMPLINGS.values(), ids=SUBSAMPLINGS)
def test_planes_are_those_of_another_decoder(tmp_path: Path, subsampling: int) -> None:
    path = written(tmp_path, even(), subsampling=subsampling)
    found = read_whole(path).picture
    assert isinstance(found, Planes)
    luma, cb, cr = found.planes
    with Image.open(path) as picture:
        picture.draft("YCbCr", picture.size)
        theirs = np.asarray(picture.convert("YCbCr") if picture.mode != "YCbCr" else picture)
    assert np.array_equal(luma, theirs[..., 0])
    rows, columns = (-(-whole // part) for whole, part in zip(luma.shape, cb.shape, strict=True))
    assert (rows, columns) == {0: (1, 1), 1: (1, 2), 2: (2, 2)}[subsampling]
    if subsampling == 0:
        assert np.array_equal(np.dstack([cb, cr]), theirs[..., 1:])


@pytest.mark.parametrize("subsampling", SUBSAMPLINGS.values(), ids=SUBSAMPLINGS)
@pytest.mark.parametrize("orientation", [1, 6, 8, 2, 5])
def test_either_form_shows_the_same(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch, subsampling: int, orientation: int
) -> None:
    """Colour is interpolated a little otherwise; nothing else differs."""
    tags = photographs.exif(orientation=orientation)
    path = written(tmp_path, even(4), subsampling=subsampling, exif=tags)
    ours, plain = read_whole(path), as_rgb(path, monkeypatch)
    assert isinstance(ours.picture, Planes) and isinstance(plain.picture, Rgb)
    assert (ours.full_width, ours.full_height) == (plain.full_width, plain.full_height)
    assert ours.picture.shape == plain.picture.shape == (ours.full_height, ours.full_width)
    for one, other in (
        (ours.picture.rgb(), plain.picture.rgb()),
        (ours.picture.reduced(240)[0], plain.picture.reduced(240)[0]),
        (ours.picture.sampled(3), plain.picture.sampled(3)),
        (jpeg_of(ours, 240), jpeg_of(plain, 240)),
    ):
        assert one.shape == other.shape
        assert peak_signal_noise_ratio(other, one) >= 33
    assert ours.picture.part(0, 31, 17, 131, 90) == pytest.approx(ours.picture.rgb()[17:90, 31:131], abs=0)
    assert ours.picture.part(1, 31, 17, 131, 90) == pytest.approx(ours.picture.rgb(1)[17:90, 31:131], abs=0)


def jpeg_of(whole: Whole, long_edge: int) -> np.ndarray:
    jpeg = images.encode_picture(whole.picture.preview(long_edge), 92)
    return np.asarray(Image.open(io.BytesIO(jpeg)))


def test_what_has_no_planes_of_srgb_takes_the_other_way(tmp_path: Path) -> None:
    for path in (
        written(tmp_path, even().convert("L")),
        written(tmp_path, even().convert("CMYK")),
        written(tmp_path, even().crop((0, 0, 301, 201))),
        written(tmp_path, even(), icc_profile=swapped_profile()),
    ):
        assert isinstance(read_whole(path).picture, Rgb), path
    srgb = ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB")).tobytes()
    assert isinstance(read_whole(written(tmp_path, even(), icc_profile=srgb)).picture, Planes)


def test_a_truncated_file_says_so_in_either_form(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    path = written(tmp_path, even())
    path.write_bytes(path.read_bytes()[:-4000])
    ours, plain = read_whole(path), as_rgb(path, monkeypatch)
    assert ours.note == plain.note == images.TRUNCATED
    assert np.array_equal(ours.picture.rgb(), plain.picture.rgb())


def test_the_digest_is_of_what_was_decoded(tmp_path: Path) -> None:
    jpeg = written(tmp_path, even())
    png = tmp_path / "other.png"
    even(1).save(png)
    for path in (jpeg, png):
        assert read_whole(path).digest == digest_of_all(path)


WITH_FACE, LARGE = photographs.PHOTOGRAPHS[0], ("friends_by_Aitzol_Berasategi.jpg", "Wine_by_Jakkub_Mede.jpg")


@pytest.mark.parametrize("name", [WITH_FACE.name, *LARGE])
def test_the_evidence_is_the_same(tmp_path: Path, monkeypatch: pytest.MonkeyPatch, name: str) -> None:
    if name == WITH_FACE.name:
        picture = even().resize((2400, 2400), Image.Resampling.BICUBIC)
    else:
        picture = with_even_sides(Image.fromarray(wallpapers.colour(name, 2400)))
    path = written(tmp_path, picture, subsampling=2)
    ours, plain = read_whole(path).picture, as_rgb(path, monkeypatch).picture
    assert isinstance(ours, Planes) and isinstance(plain, Rgb)
    one, other = (measure(Sheet(picture), face_nets()) for picture in (ours, plain))
    assert what_is_said(one) == what_is_said(other)
    assert len(one.faces) == (name == WITH_FACE.name)
    assert one.exposure.clipped_high == pytest.approx(other.exposure.clipped_high, abs=0.002)
    assert one.exposure.median_stops == pytest.approx(other.exposure.median_stops, abs=0.02)
    assert one.focus.subject is not None and other.focus.subject is not None
    assert one.focus.subject.sigma_px == pytest.approx(other.focus.subject.sigma_px, rel=0.1)


def what_is_said(evidence: Evidence) -> tuple[object, ...]:
    focus = evidence.focus
    return (
        judge_focus(focus.subject and focus.subject.sigma_px, focus.sharpest, focus.motion, None).verdict,
        exposure_verdict(evidence.exposure),
        focus.motion and focus.motion.kind,
        focus.subject and focus.subject.kind,
        len(evidence.faces),
    )
