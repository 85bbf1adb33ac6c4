"""Pictures in: any supported file to upright sRGB pixels, with a reason where that fails.

JPEG goes through libjpeg-turbo's scaled decoding, the cheapest way to a reduced picture. PNG, TIFF
and HEIF go through Pillow. RAW files have a room of their own (`raw`).
"""

from __future__ import annotations

import io
import os
import re
import warnings
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass, replace
from pathlib import Path
from typing import BinaryIO

import cv2
import numpy as np
import pillow_heif
import simplejpeg
from PIL import Image, TiffImagePlugin

from winnow.core.orientation import upright, upright_size
from winnow.core.pairing import RAWS, split_name
from winnow.core.picture import Picture, Planes
from winnow.formats import budget, exif, raw, xmp
from winnow.formats.colour import Colours, Pixels, converted, is_wide, name_of, rgb_of
from winnow.formats.icc import ADOBE_RGB, DISPLAY_P3
from winnow.formats.opening import NotPlainError, open_plain

HEAD_BYTES = 256 * 1024
"""Enough of a file to hold its Exif block, thumbnail included, and the usual XMP packet."""

TRUNCATED = "The file is truncated: what is shown is all that can be read of it."

TURNED_BY_READER = ("HEIF", "TIFF")
"""Formats that Pillow turns upright itself; the size it gives is upright already."""

_BITS, _WIDTH, _HEIGHT = 0x0102, 0x0100, 0x0101
_PILLOW_BYTES = {"1": 1, "L": 1, "P": 1, "LA": 4, "I;16": 2, "I;16B": 2, "I;16L": 2}
"""Bytes a pixel in Pillow's memory, 4 where nothing is said."""
_INSIDE = {"HEIF": 1.5}
"""Bytes a pixel that a reader needs beside what it hands over."""
_DEEP_TIFF_BYTES = 4.5
_CV_NO_MEMORY = -4
_PLACES = re.compile(r"<[^>]*>|(?:[A-Za-z]:)?(?:[\\/][\w.+-]+){2,}(?::\d+)?:?")

pillow_heif.register_heif_opener()
Image.MAX_IMAGE_PIXELS = None  # checked here, with a message that says what to do
warnings.simplefilter("ignore", Image.DecompressionBombWarning)


class UnreadableError(ValueError):
    """A picture that cannot be read; the message says why and is meant for a person. passing: the reason lies around
    the file (disk, permissions), not in it, so that trying again may help."""

    def __init__(self, message: str, *, passing: bool = False) -> None:
        super().__init__(message)
        self.passing = passing


class TooLargeError(UnreadableError):
    """To open it would take more memory than a worker has."""


@dataclass(frozen=True, slots=True)
class Decoded:
    """Upright pixels (rows, columns, 3), reduced or not, with the upright full size.

    `note` tells of damage that did not keep the picture from being shown; `wide` that the file holds colours beyond
    sRGB.
    """

    pixels: Pixels
    full_width: int
    full_height: int
    note: str | None = None
    wide: bool = False


@dataclass(frozen=True, slots=True)
class Head:
    """What a picture says of itself before it is decoded. Width and height are upright. as_is: a browser shows all
    pixels of the file as Winnow would: a JPEG that is not CMYK, and whose colours are not told in Exif alone. space:
    the name of its colour space; profiled: it is told by a profile."""

    width: int
    height: int
    tags: dict[str, object]
    packet: bytes | None
    as_is: bool = False
    space: str | None = None
    profiled: bool = False


def read_head(path: Path, below: str | None = None) -> Head:
    """Size, Exif tags and XMP packet of a picture or RAW file. below: see `opening`. Raises UnreadableError."""
    profile = None
    with opened(path, below) as file:
        if is_raw(path):
            return _raw_head(file, path)
        try:
            with Image.open(file) as picture:
                tags = exif.tags_of(picture)
                packet = picture.info.get("xmp") or picture.info.get("XML:com.adobe.xmp")
                size = picture.size
                turned = picture.format in TURNED_BY_READER
                profile = profile_of(picture)
                as_is = (
                    picture.format in ("JPEG", "MPO")
                    and picture.mode in ("RGB", "L")
                    and profile is not ADOBE_RGB
                )
        except Exception as error:
            deep = _deep_tiff_size(file)
            if deep is None:
                raise unreadable(path, error) from error
            size = deep
            tags, packet, turned, as_is = exif.tags_of_raw(file), None, False, False
    orientation = 1 if turned else orientation_of(tags)
    width, height = upright_size(*size, orientation)
    space = name_of(profile) if profile else exif.space_of(tags)
    written = packet.encode() if isinstance(packet, str) else packet
    return Head(width, height, tags, written, as_is, space, bool(profile))


def profile_of(picture: Image.Image) -> bytes | None:
    """The ICC profile of a picture that Pillow has opened: its own, or that of the space which its camera announces
    (DCF 2.0: interoperability index R03)."""
    profile: bytes | None = picture.info.get("icc_profile")
    return profile or (ADOBE_RGB if exif.announces_adobe_rgb(picture) else None)


def decode(
    path: Path, long_edge: int = 0, below: str | None = None, colours: Colours = Colours.SRGB
) -> Decoded:
    """The picture in a file, upright.

    long_edge: 0 for all pixels; otherwise a reduced picture at least this long where the format
    gives one cheaply, never smaller unless the original is. below: see `opening`. Raises UnreadableError, also where
    it would take more memory than a worker has.
    """
    with opened(path, below) as file:
        found = content_of(file, path, long_edge, colours)
        if isinstance(found, Jpeg):
            return decode_content(found, path, long_edge, colours=colours)
        return found


@dataclass(frozen=True, slots=True)
class Jpeg:
    """All bytes of a JPEG: of a file, or of the picture that a camera put into its RAW file. turn: where that is how
    it is turned, the Exif code; size: upright, of the whole RAW picture."""

    data: bytes
    turn: int | None = None
    size: tuple[int, int] | None = None


def content_of(
    file: BinaryIO, path: Path, long_edge: int = 0, colours: Colours = Colours.SRGB
) -> Jpeg | Decoded:
    """What is in an open file: the bytes of a JPEG, or the pixels of anything else. Raises UnreadableError."""
    if is_raw(path):
        found = _raw_picture(file, path, long_edge)
        if isinstance(found, raw.Embedded):
            return Jpeg(found.jpeg, found.orientation, (found.width, found.height))
        return Decoded(found.pixels, found.width, found.height, found.note)
    try:
        start = file.read(2)
        file.seek(0)
        if start == b"\xff\xd8":
            return Jpeg(_all_of(file))
        return _decode_with_pillow(file, path, colours)
    except OSError as error:
        raise unreadable(path, error) from error


def decode_content(
    found: Jpeg,
    path: Path,
    long_edge: int = 0,
    head: JpegHead | None = None,
    colours: Colours = Colours.SRGB,
) -> Decoded:
    """The pixels of a JPEG that `content_of` found. head: if it was read already. Raises UnreadableError."""
    known = head or head_of_jpeg(found.data, path, found.turn)
    decoded = _decode_jpeg(found.data, path, long_edge, known, colours)
    if found.size is None:
        return decoded
    return replace(decoded, full_width=found.size[0], full_height=found.size[1])


@dataclass(frozen=True, slots=True)
class JpegHead:
    """What a JPEG says of itself: its size as stored, colour space and subsampling in simplejpeg's words."""

    width: int
    height: int
    colours: str
    subsampling: str
    profile: bytes | None
    progressive: bool
    orientation: int


def head_of_jpeg(data: bytes, path: Path, turn: int | None = None) -> JpegHead:
    """`turn` replaces the orientation that its Exif gives. Raises UnreadableError."""
    try:
        height, width, colours, subsampling = simplejpeg.decode_jpeg_header(data)
        with Image.open(io.BytesIO(data)) as picture:
            profile = profile_of(picture)
            progressive = bool(picture.info.get("progressive"))
            orientation = turn if turn is not None else orientation_of(exif.tags_of(picture))
    except Exception as error:
        raise unreadable(path, error) from error
    return JpegHead(width, height, colours, subsampling, profile, progressive, orientation)


def _decode_jpeg(data: bytes, path: Path, long_edge: int, head: JpegHead, colours: Colours) -> Decoded:
    """As `decode`, for the bytes of a JPEG."""
    width, height, orientation = head.width, head.height, head.orientation
    if head.colours in ("CMYK", "YCCK"):
        return _decode_with_pillow(io.BytesIO(data), path, colours)
    scale = long_edge / max(width, height)
    least, scaled = {}, 1.0
    if long_edge and scale < 1:
        least = {"min_width": int(np.ceil(width * scale)), "min_height": int(np.ceil(height * scale))}
        scaled = min(1.0, np.ceil(8 * scale) / 8)  # libjpeg-turbo scales by eighths
    demand_jpeg(head, len(data), scaled)
    note = None
    try:
        pixels = simplejpeg.decode_jpeg(data, "RGB", **least)
    except ValueError:
        note = TRUNCATED
        try:
            pixels = simplejpeg.decode_jpeg(data, "RGB", strict=False, **least)
        except ValueError as error:
            raise unreadable(path, error) from error
    except MemoryError as error:
        raise unreadable(path, error) from error
    pixels = converted(pixels, head.profile, colours)
    size = upright_size(width, height, orientation)
    return Decoded(upright(pixels, orientation), *size, note, is_wide(head.profile))


def _decode_with_pillow(file: BinaryIO, path: Path, colours: Colours) -> Decoded:
    note = None
    try:
        picture: Image.Image = Image.open(file)
    except Exception as error:
        if _deep_tiff_size(file) is None:
            raise unreadable(path, error) from error
        return _decode_deep_tiff(file, path)
    try:
        orientation = 1 if picture.format in TURNED_BY_READER else orientation_of(exif.tags_of(picture))
        inside = _INSIDE.get(picture.format or "", 0) + _PILLOW_BYTES.get(picture.mode, 4)
        turning = budget.TURNED if orientation != 1 else 0
        held = _size(file) if isinstance(file, io.BytesIO) or picture.format == "HEIF" else 0
        _demand(picture.width, picture.height, max(inside + budget.OURS, turning), held)
        profile = profile_of(picture)
        try:
            picture.load()
        except OSError as error:
            if "truncated" not in str(error).lower():
                raise
            note = TRUNCATED
            picture = _load_truncated(file)
        wide = picture.mode != "CMYK" and is_wide(profile)
        pixels = rgb_of(picture, profile, colours)
    except UnreadableError:
        raise
    except Exception as error:
        raise unreadable(path, error) from error
    del picture
    turned = upright(pixels, orientation)
    return Decoded(turned, turned.shape[1], turned.shape[0], note, wide)


def _load_truncated(file: BinaryIO) -> Image.Image:
    """Pillow stops at the first missing byte unless told, for the whole process, to go on."""
    from PIL import ImageFile

    ImageFile.LOAD_TRUNCATED_IMAGES = True
    try:
        file.seek(0)
        picture = Image.open(file)
        picture.load()
        return picture
    finally:
        ImageFile.LOAD_TRUNCATED_IMAGES = False


def _deep_tiff_size(file: BinaryIO) -> tuple[int, int] | None:
    """(width, height) of a TIFF of 16 bits and colours, which is beyond Pillow and common in this trade; None for
    anything else."""
    try:
        file.seek(0)
        head = file.read(8)
        if head[:4] not in (b"II*\0", b"MM\0*"):
            return None
        tags = TiffImagePlugin.ImageFileDirectory_v2(head)
        file.seek(tags.next)
        tags.load(file)
        bits = tags.get(_BITS, ())
        return (int(tags[_WIDTH]), int(tags[_HEIGHT])) if set(bits) == {16} and len(bits) >= 3 else None
    except Exception:  # noqa: BLE001 - whatever it is, it is none
        return None
    finally:
        file.seek(0)


def _decode_deep_tiff(file: BinaryIO, path: Path) -> Decoded:
    size = _deep_tiff_size(file)
    assert size is not None
    orientation = orientation_of(exif.tags_of_raw(file))
    _demand(*size, max(_DEEP_TIFF_BYTES, budget.TURNED if orientation != 1 else 0))
    try:
        # By the open file, not by the name, which may be another's by now.
        pixels = cv2.imread(f"/dev/fd/{file.fileno()}", cv2.IMREAD_COLOR_RGB | cv2.IMREAD_IGNORE_ORIENTATION)
    except (cv2.error, MemoryError) as error:
        raise unreadable(path, error) from error
    if pixels is None:
        raise UnreadableError("It is not a TIF that can be decoded (damaged, or of an unusual kind).")
    turned = upright(np.asarray(pixels, np.uint8), orientation)
    return Decoded(turned, turned.shape[1], turned.shape[0])


def _raw_picture(file: BinaryIO, path: Path, long_edge: int) -> raw.Embedded | raw.Developed:
    try:
        return raw.best_picture(file, long_edge)
    except raw.RawError as error:
        raise UnreadableError(str(error)) from error
    except budget.TooMuchMemoryError as error:
        raise TooLargeError(str(error)) from error
    except (OSError, MemoryError) as error:
        raise unreadable(path, error) from error


def _raw_head(file: BinaryIO, path: Path) -> Head:
    try:
        width, height = raw.size_of(file)
        file.seek(0)
        tags = exif.tags_of_raw(file)
        file.seek(0)
        packet = xmp.find_packet(file.read(4 * HEAD_BYTES))
    except (raw.RawError, OSError, MemoryError) as error:
        raise unreadable(path, error) from error
    return Head(width, height, tags, packet, space=exif.space_of(tags))


def is_raw(path: Path) -> bool:
    return split_name(path.name)[1] in RAWS


def shrink(pixels: Pixels, long_edge: int) -> Pixels:
    """Pixels reduced to `long_edge`; returned as they are if not longer.

    By area averaging, the plain way to reduce without aliasing. Close to full size, where a pixel
    averages less than four thirds of one, linear interpolation gives the same for a fifth of the time.
    """
    height, width = pixels.shape[:2]
    scale = long_edge / max(height, width)
    if scale >= 1:
        return pixels
    size = (max(1, round(width * scale)), max(1, round(height * scale)))
    method = cv2.INTER_LINEAR if scale > 0.75 else cv2.INTER_AREA
    return np.asarray(cv2.resize(pixels, size, interpolation=method), dtype=np.uint8)


def encode_jpeg(pixels: Pixels, quality: int, wide: bool = False) -> bytes:
    """Pixels as a baseline JPEG with 4:2:0 colour. wide: they are in Display P3, and it says so."""
    packed = np.ascontiguousarray(pixels)
    jpeg = bytes(simplejpeg.encode_jpeg(packed, quality, colorspace="RGB", colorsubsampling="420"))
    return _with_profile(jpeg, DISPLAY_P3) if wide else jpeg


def _with_profile(jpeg: bytes, profile: bytes) -> bytes:
    """A JPEG with an ICC profile (ICC.1, annex B.4) after its JFIF segment."""
    content = b"ICC_PROFILE\0\1\1" + profile
    at = 4 + int.from_bytes(jpeg[4:6], "big") if jpeg[2:4] == b"\xff\xe0" else 2
    return jpeg[:at] + b"\xff\xe2" + (len(content) + 2).to_bytes(2, "big") + content + jpeg[at:]


def encode_picture(picture: Picture, quality: int, wide: bool = False) -> bytes:
    """A picture as a baseline JPEG with 4:2:0 colour, from the form it is in. wide: as for `encode_jpeg`."""
    if isinstance(picture, Planes):
        return bytes(simplejpeg.encode_jpeg_yuv_planes(*picture.planes, quality))
    return encode_jpeg(picture.rgb(), quality, wide)


def orientation_of(tags: dict[str, object]) -> int:
    """The Exif orientation code in tags, 1 where there is none that makes sense."""
    value = tags.get("Orientation")
    return value if isinstance(value, int) and value in range(1, 9) else 1


@contextmanager
def opened(path: Path, below: str | None) -> Iterator[BinaryIO]:
    """The file, if there is something in it that can be a picture. Raises UnreadableError."""
    try:
        file = open_plain(path, below)
    except OSError as error:
        raise unreadable(path, error) from error
    with file:
        size = _size(file)
        if size == 0:
            raise UnreadableError("The file is empty (0 bytes): copy it from the card again.")
        if size > budget.MAX_FILE_BYTES:
            raise UnreadableError(
                f"The file is {size / 1e9:.1f} GB large: it is no picture that can be opened here."
            )
        yield file


def _size(file: BinaryIO) -> int:
    return file.getbuffer().nbytes if isinstance(file, io.BytesIO) else os.fstat(file.fileno()).st_size


def _all_of(file: BinaryIO) -> bytes:
    """The whole file. Raises UnreadableError where that alone takes too much."""
    _demand(0, 0, 0, _size(file))
    return file.read()


def _demand(width: int, height: int, bytes_a_pixel: float, beside: int = 0) -> None:
    try:
        budget.demand(width, height, bytes_a_pixel, beside)
    except budget.TooMuchMemoryError as error:
        raise TooLargeError(str(error)) from error


def demand_jpeg(head: JpegHead, length: int, scaled: float = 1.0) -> None:
    """Raises TooLargeError where a JPEG of `length` bytes takes too much to decode to `scaled` of its size."""
    need = budget.jpeg_need(head.subsampling, scaled, head.progressive, head.orientation != 1)
    _demand(head.width, head.height, need, length)


def unreadable(path: Path, error: Exception) -> UnreadableError:
    """What a person is told of an error that opening or decoding a file ended with."""
    passing = isinstance(error, OSError) and error.errno is not None and not isinstance(error, NotPlainError)
    return UnreadableError(_reason(path, error), passing=passing)


def _reason(path: Path, error: Exception) -> str:
    """A message for a person from whatever a decoder raised."""
    if isinstance(error, PermissionError):
        return "You have no permission to read this file: change its permissions."
    if isinstance(error, FileNotFoundError):
        return "The file is no longer there."
    if isinstance(error, NotPlainError):
        return str(error.strerror)
    if isinstance(error, OSError) and error.errno is not None:
        return f"The disk could not deliver the file ({error.strerror}): copy it again."
    if isinstance(error, MemoryError) or getattr(error, "code", None) == _CV_NO_MEMORY:
        return (
            f"It would take more memory to open than Winnow gives to one picture "
            f"({budget.PICTURE_BYTES / 1e6:.0f} MB). Export a smaller version to see it here."
        )
    kind = split_name(path.name)[1].upper()
    try:
        with open_plain(path) as file:
            start = file.read(64)
    except OSError:
        start = b""
    if start and all(32 <= byte < 127 or byte in b"\r\n\t" for byte in start):
        return f"It is named {kind} but holds text, not a picture."
    return f"It is not a {kind} that can be decoded ({_said(error)})."


def _said(error: Exception) -> str:
    """What a decoder says, without the places in memory, on this disk and in its own source that it may name."""
    told = _PLACES.sub("", str(error))
    return " ".join(told.split()).strip(" :'\"") or type(error).__name__
