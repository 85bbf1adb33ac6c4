"""Pictures in, on real photographs from scikit-image and scikit-learn."""

from __future__ import annotations

import io
import subprocess
from pathlib import Path

import numpy as np
import pillow_heif
import pytest
import tifffile
from PIL import Image, ImageCms

from tests import photographs
from winnow.core.capture import from_tags
from winnow.demo import dng
from winnow.formats import exif, images


def test_scaled_decode_is_the_reduced_picture(tmp_path: Path) -> None:
    """Against Pillow's own full decode and reduction: an independent path to the same picture."""
    path = tmp_path / "a.jpg"
    Image.fromarray(photographs.large(2400, 1600)).save(path, quality=92)
    found = images.shrink(images.decode(path, 600).pixels, 600)
    whole = Image.open(path).convert("RGB").resize((600, 400), Image.Resampling.BOX)
    assert found.shape == (400, 600, 3)
    assert np.abs(found.astype(int) - np.asarray(whole).astype(int)).mean() < 2.5


# Source: CIPA DC-008; exiftool (an independent program) sets the tag.
@pytest.mark.parametrize("code", range(1, 9))
def test_all_eight_orientations_come_out_upright(tmp_path: Path, code: int) -> None:
    scene = photographs.photograph(1).resize((451, 300))
    undo = {
        2: Image.Transpose.FLIP_LEFT_RIGHT,
        3: Image.Transpose.ROTATE_180,
        4: Image.Transpose.FLIP_TOP_BOTTOM,
        5: Image.Transpose.TRANSPOSE,
        6: Image.Transpose.ROTATE_90,
        7: Image.Transpose.TRANSVERSE,
        8: Image.Transpose.ROTATE_270,
    }
    stored = scene.transpose(undo[code]) if code > 1 else scene
    for suffix in ("jpg", "png", "tif"):
        path = tmp_path / f"o.{suffix}"
        stored.save(path, quality=95)
        subprocess.run(
            ["exiftool", "-q", "-overwrite_original", "-n", f"-Orientation={code}", path], check=True
        )
        head, decoded = images.read_head(path), images.decode(path)
        assert (head.width, head.height) == (451, 300)
        assert decoded.pixels.shape == (300, 451, 3)
        assert np.abs(decoded.pixels.astype(int) - np.asarray(scene).astype(int)).mean() < 3, suffix


def test_capture_data_as_exiftool_writes_them(tmp_path: Path) -> None:
    path = photographs.save(tmp_path / "a.jpg")
    subprocess.run(
        [
            "exiftool",
            "-q",
            "-overwrite_original",
            "-DateTimeOriginal=2026:10:17 16:42:10",
            "-SubSecTimeOriginal=25",
            "-OffsetTimeOriginal=+01:00",
            "-Make=Tarn",
            "-Model=T2",
            "-SerialNumber=T2-7",
            "-LensModel=Tarn 50mm f/1.4",
            "-FocalLength=50",
            "-FNumber=1.8",
            "-ExposureTime=1/250",
            "-ISO=640",
            "-ExposureCompensation=-0.7",
            path,
        ],
        check=True,
    )
    found = from_tags(images.read_head(path).tags)
    with path.open("rb") as file:
        assert from_tags(exif.tags_of_raw(file)) == found  # ExifRead, the reader for RAW, agrees
    assert found.captured_at == "2026-10-17T16:42:10.250+01:00"
    assert (found.camera, found.serial, found.lens) == ("Tarn T2", "T2-7", "Tarn 50mm f/1.4")
    assert (found.focal_mm, found.aperture, found.iso) == (50, 1.8, 640)
    assert found.shutter_s == pytest.approx(1 / 250)
    assert found.bias_ev == pytest.approx(-0.7)


def test_heif(tmp_path: Path) -> None:
    path = tmp_path / "a.heic"
    picture = photographs.photograph(2)
    pillow_heif.from_pillow(picture).save(path, quality=90)
    decoded = images.decode(path, 256)
    assert decoded.pixels.shape == (picture.height, picture.width, 3)
    assert np.abs(decoded.pixels.astype(int) - np.asarray(picture).astype(int)).mean() < 6


def test_sixteen_bit_tiff_and_png(tmp_path: Path) -> None:
    eight = np.asarray(photographs.photograph(0))
    tifffile.imwrite(tmp_path / "a.tif", eight.astype(np.uint16) * 257, photometric="rgb")
    grey = eight[..., 1]
    Image.fromarray(grey.astype(np.uint16) * 257).save(tmp_path / "b.png")
    assert np.abs(images.decode(tmp_path / "a.tif").pixels.astype(int) - eight).max() <= 1
    assert np.abs(images.decode(tmp_path / "b.png").pixels[..., 0].astype(int) - grey).max() <= 1


def test_embedded_profile_becomes_srgb(tmp_path: Path) -> None:
    """A profile whose red and blue are exchanged must exchange the colours back."""
    picture = photographs.photograph(2)
    swapped = Image.merge("RGB", picture.split()[::-1])
    profile = swapped_profile()
    buffer = io.BytesIO()
    swapped.save(buffer, "JPEG", quality=95, icc_profile=profile)
    path = tmp_path / "a.jpg"
    path.write_bytes(buffer.getvalue())
    found = images.decode(path).pixels.astype(int)
    assert np.abs(found - np.asarray(picture).astype(int)).mean() < 5
    plain = ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB")).tobytes()
    picture.save(path, quality=95, icc_profile=plain)
    without = images.decode_content(images.Jpeg(photographs.jpeg_bytes(picture, quality=95)), path)
    assert np.array_equal(images.decode(path).pixels, without.pixels)


def swapped_profile() -> bytes:
    data = bytearray(ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB")).tobytes())
    count = int.from_bytes(data[128:132], "big")
    tags = {bytes(data[p : p + 4]): p for p in range(132, 132 + 12 * count, 12)}
    red, blue = tags[b"rXYZ"], tags[b"bXYZ"]
    data[red + 4 : red + 12], data[blue + 4 : blue + 12] = (
        data[blue + 4 : blue + 12],
        data[red + 4 : red + 12],
    )
    description = data.find("sRGB".encode("utf-16-be"))
    data[description : description + 8] = "test".encode("utf-16-be")
    return bytes(data)


def test_cmyk_jpeg(tmp_path: Path) -> None:
    path = tmp_path / "a.jpg"
    photographs.photograph(0).convert("CMYK").save(path)
    assert images.decode(path, 200).pixels.shape[2] == 3
    assert not images.read_head(path).as_is


def test_truncated_jpeg_shows_what_there_is(tmp_path: Path) -> None:
    path = tmp_path / "a.jpg"
    whole = photographs.jpeg_bytes(photographs.photograph(0), quality=90)
    path.write_bytes(whole[: len(whole) // 2])
    decoded = images.decode(path)
    complete = np.asarray(photographs.photograph(0)).astype(int)
    assert decoded.note == images.TRUNCATED
    assert np.abs(decoded.pixels[:150].astype(int) - complete[:150]).mean() < 6


@pytest.mark.parametrize(
    ("name", "content", "words"),
    [
        ("a.jpg", b"", "empty"),
        ("a.JPG", b"Dear diary, this is text.\n", "holds text"),
        ("a.jpg", b"\xff\xd8\xff\xe0rubbish" * 20, "decoded"),
        ("a.png", b"\x89PNG\r\n\x1a\nrubbish" * 20, "decoded"),
        ("a.tif", b"II*\x00\xff\xff\xff\x7f", "decoded"),
        ("a.heic", b"\0\0\0\x18ftypheic" + b"\0" * 40, "decoded"),
        ("a.cr2", b"rubbish\0" * 400, "LibRaw"),
        ("a.dng", b"II*\x00" + b"\xff" * 500, "LibRaw"),
    ],
)
def test_what_cannot_be_read_gives_a_reason(tmp_path: Path, name: str, content: bytes, words: str) -> None:
    path = tmp_path / name
    path.write_bytes(content)
    for read in (images.read_head, images.decode):
        with pytest.raises(images.UnreadableError, match=words):
            read(path)


def test_bombs_are_refused_before_they_are_decoded(tmp_path: Path) -> None:
    path = tmp_path / "bomb.png"
    Image.new("1", (30000, 30000)).save(path)
    assert path.stat().st_size < 300_000
    with pytest.raises(images.UnreadableError, match="megapixels"):
        images.decode(path)
    jpeg = bytearray(photographs.jpeg_bytes(photographs.photograph(0)))
    start = jpeg.find(b"\xff\xc0\x00\x11") + 5
    jpeg[start : start + 4] = b"\x75\x30\x75\x30"
    path = tmp_path / "bomb.jpg"
    path.write_bytes(jpeg)
    with pytest.raises(images.TooLargeError, match="megapixels"):
        images.decode(path)
    # An eighth of it, which is how a JPEG is reduced while it is decoded, can be held; with half of it, it cannot.
    assert images.decode(path, 512).pixels.shape == (3750, 3750, 3)
    with pytest.raises(images.TooLargeError, match="megapixels"):
        images.decode(path, 25000)


@pytest.mark.parametrize("code", [1, 6, 8])
def test_raw_development(tmp_path: Path, code: int) -> None:
    """A linear DNG, opened by LibRaw, which turns it upright itself."""
    scene = np.asarray(photographs.photograph(2).resize((400, 300)))
    stored = {1: scene, 6: np.rot90(scene, 1), 8: np.rot90(scene, -1)}[code]
    path = tmp_path / "a.dng"
    write_dng(path, np.ascontiguousarray(stored), code)
    head, decoded = images.read_head(path), images.decode(path)
    assert (head.width, head.height) == (400, 300)
    assert decoded.pixels.shape == (300, 400, 3)
    found, wanted = decoded.pixels.mean(2).ravel(), scene.mean(2).ravel()
    assert np.corrcoef(found, wanted)[0, 1] > 0.95


def write_dng(path: Path, rgb: np.ndarray, orientation: int = 1, preview: bytes | None = None) -> None:
    """A linear DNG; without `preview`, with one as small as cameras write for their own screen."""
    small = photographs.jpeg_bytes(Image.fromarray(rgb).resize((160, 120)))
    path.write_bytes(dng.encode(rgb, preview or small, photographs.exif(orientation=orientation)))


def test_thumbnail_inside_the_exif(tmp_path: Path) -> None:
    small = photographs.jpeg_bytes(photographs.photograph(3).resize((160, 107)))
    (tmp_path / "t.jpg").write_bytes(small)
    path = photographs.save(tmp_path / "a.jpg", 3)
    assert exif.embedded_thumbnail(path.read_bytes()) is None
    subprocess.run(
        ["exiftool", "-q", "-overwrite_original", f"-ThumbnailImage<={tmp_path / 't.jpg'}", path], check=True
    )
    assert exif.embedded_thumbnail(path.read_bytes()[: images.HEAD_BYTES]) == small


@pytest.mark.parametrize("code", [1, 6])
@pytest.mark.parametrize("upright_preview", [False, True])
def test_raw_shows_its_largest_embedded_jpeg(tmp_path: Path, code: int, upright_preview: bool) -> None:
    """The embedded JPEG is as the sensor lies, or already upright: both are met. It is told from a
    development by its colours, which are inverted here."""
    scene = photographs.photograph(2).resize((2400, 1600))
    stored = scene.transpose(Image.Transpose.ROTATE_90) if code == 6 else scene
    negative = Image.eval(scene if upright_preview else stored, lambda value: 255 - value)
    path = tmp_path / "a.dng"
    write_dng(path, np.asarray(stored), code, photographs.jpeg_bytes(negative, quality=92))
    head, decoded = images.read_head(path), images.decode(path, 512)
    assert (head.width, head.height) == (decoded.full_width, decoded.full_height) == (2400, 1600)
    assert max(decoded.pixels.shape[:2]) >= 512
    small = np.asarray(Image.fromarray(decoded.pixels).resize((240, 160))).astype(int)
    wanted = 255 - np.asarray(scene.resize((240, 160))).astype(int)
    assert np.abs(small - wanted).mean() < 8


def test_a_tiny_embedded_jpeg_is_not_taken_for_the_picture(tmp_path: Path) -> None:
    scene = photographs.photograph(2).resize((2400, 1600))
    path = tmp_path / "a.dng"
    tiny = photographs.jpeg_bytes(Image.new("RGB", (160, 107), "red"))
    write_dng(path, np.asarray(scene), preview=tiny)
    decoded = images.decode(path, 1024)
    assert max(decoded.pixels.shape[:2]) >= 1024  # developed, not the 160 px of the JPEG
    small = np.asarray(Image.fromarray(decoded.pixels).resize((240, 160))).mean(2).ravel()
    assert np.corrcoef(small, np.asarray(scene.resize((240, 160))).mean(2).ravel())[0, 1] > 0.9


def test_messages_name_no_places(tmp_path: Path) -> None:
    """Neither of this disk nor of memory: what a decoder says is cleaned of them."""
    path = tmp_path / "deep" / "folder" / "BROKEN_0001.PNG"
    path.parent.mkdir(parents=True)
    path.write_bytes(b"\x89PNG\r\n\x1a\n" + bytes(range(256)))
    for read in (images.decode, images.read_head):
        with pytest.raises(images.UnreadableError) as told:
            read(path)
        assert "<" not in str(told.value) and "/" not in str(told.value) and "0x" not in str(told.value)
        assert str(told.value).startswith("It is not a PNG that can be decoded")
    said = images._said(
        RuntimeError("OpenCV(4.14) /io/opencv/modules/core/src/matrix.cpp:246: error: (-215) s >= 0")
    )
    assert said == "OpenCV(4.14) error: (-215) s >= 0"
