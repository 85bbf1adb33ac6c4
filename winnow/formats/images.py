"""Pictures in: any supported file to upright sRGB pixels, with a reason where that fails.

JPEG goes through libjpeg-turbo's scaled decoding, the cheapest way to a reduced picture. PNG, TIFF
and HEIF go through Pillow. RAW files have a room of their own (`raw`).
"""

from __future__ import annotations

import io
import warnings
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path

import cv2
import numpy as np
import pillow_heif
import simplejpeg
from numpy.typing import NDArray
from PIL import Image, ImageCms

from winnow.core.orientation import upright, upright_size
from winnow.core.pairing import RAWS, split_name
from winnow.formats import exif, raw, xmp

MAX_PIXELS = 256_000_000
"""Larger pictures are refused: decoded, one would take all the memory of a small machine."""

HEAD_BYTES = 256 * 1024
"""Enough of a file to hold its Exif block, thumbnail included, and the usual XMP packet."""

TRUNCATED = "The file is truncated: what is shown is all that can be read of it."

TURNED_BY_READER = ("HEIF", "TIFF")
"""Formats that Pillow turns upright itself; the size it gives is upright already."""

Pixels = NDArray[np.uint8]

pillow_heif.register_heif_opener()
Image.MAX_IMAGE_PIXELS = None  # checked here, with a message that says what to do
warnings.simplefilter("ignore", Image.DecompressionBombWarning)


class UnreadableError(ValueError):
    """A picture that cannot be read; the message says why and is meant for a person. passing: the reason lies around
    the file (disk, permissions), not in it, so that trying again may help."""

    def __init__(self, message: str, *, passing: bool = False) -> None:
        super().__init__(message)
        self.passing = passing


@dataclass(frozen=True, slots=True)
class Decoded:
    """Upright sRGB pixels (rows, columns, 3), reduced or not, with the upright full size.

    `note` tells of damage that did not keep the picture from being shown.
    """

    pixels: Pixels
    full_width: int
    full_height: int
    note: str | None = None


@dataclass(frozen=True, slots=True)
class Head:
    """What a picture says of itself before it is decoded. Width and height are upright."""

    width: int
    height: int
    tags: dict[str, object]
    packet: bytes | None


def read_head(path: Path) -> Head:
    """Size, Exif tags and XMP packet of a picture or RAW file. Raises UnreadableError."""
    _refuse_empty(path)
    if is_raw(path):
        return _raw_head(path)
    try:
        with Image.open(path) as picture:
            _refuse_bomb(picture.width, picture.height)
            tags = exif.tags_of(picture)
            packet = picture.info.get("xmp") or picture.info.get("XML:com.adobe.xmp")
            size = picture.size
            turned = picture.format in TURNED_BY_READER
    except UnreadableError:
        raise
    except Exception as error:
        raise _unreadable(path, error) from error
    orientation = 1 if turned else orientation_of(tags)
    width, height = upright_size(*size, orientation)
    return Head(width, height, tags, packet.encode() if isinstance(packet, str) else packet)


def decode(path: Path, long_edge: int = 0) -> Decoded:
    """The picture in a file, upright and in sRGB.

    long_edge: 0 for all pixels; otherwise a reduced picture at least this long where the format
    gives one cheaply, never smaller unless the original is. Raises UnreadableError.
    """
    _refuse_empty(path)
    if is_raw(path):
        return _decode_raw(path, long_edge)
    try:
        data = path.read_bytes()
    except OSError as error:
        raise _unreadable(path, error) from error
    if data.startswith(b"\xff\xd8"):
        return decode_jpeg(data, path, long_edge)
    return _decode_with_pillow(data, path)


def decode_jpeg(data: bytes, path: Path, long_edge: int = 0, turn: int | None = None) -> Decoded:
    """As `decode`, for the bytes of a JPEG. `turn` replaces the orientation that its Exif gives."""
    try:
        height, width, colours, _ = simplejpeg.decode_jpeg_header(data)
    except ValueError as error:
        raise _unreadable(path, error) from error
    _refuse_bomb(width, height)
    with Image.open(io.BytesIO(data)) as picture:
        profile = picture.info.get("icc_profile")
        orientation = turn if turn is not None else orientation_of(exif.tags_of(picture))
    if colours in ("CMYK", "YCCK"):
        return _decode_with_pillow(data, path)
    scale = long_edge / max(width, height)
    least = {
        "min_width": int(np.ceil(width * scale)) if scale < 1 else 0,
        "min_height": int(np.ceil(height * scale)) if scale < 1 else 0,
    }
    if not long_edge:
        least = {}
    note = None
    try:
        pixels = simplejpeg.decode_jpeg(data, "RGB", **least)
    except ValueError:
        note = TRUNCATED
        try:
            pixels = simplejpeg.decode_jpeg(data, "RGB", strict=False, **least)
        except ValueError as error:
            raise _unreadable(path, error) from error
    pixels = to_srgb(pixels, profile)
    return Decoded(upright(pixels, orientation), *upright_size(width, height, orientation), note=note)


def _decode_with_pillow(data: bytes, path: Path) -> Decoded:
    note = None
    try:
        picture: Image.Image = Image.open(io.BytesIO(data))
        _refuse_bomb(picture.width, picture.height)
        orientation = 1 if picture.format in TURNED_BY_READER else orientation_of(exif.tags_of(picture))
        profile = picture.info.get("icc_profile")
        try:
            picture.load()
        except OSError as error:
            if "truncated" not in str(error).lower():
                raise
            note = TRUNCATED
            picture = _load_truncated(data)
        pixels = _rgb(picture, profile)
    except UnreadableError:
        raise
    except Exception as error:
        # 16-bit colour TIFF is beyond Pillow and common in this trade.
        sixteen = cv2.imdecode(np.frombuffer(data, np.uint8), cv2.IMREAD_COLOR)
        if sixteen is None:
            raise _unreadable(path, error) from error
        return Decoded(np.ascontiguousarray(sixteen[..., ::-1]), sixteen.shape[1], sixteen.shape[0])
    turned = upright(pixels, orientation)
    return Decoded(turned, turned.shape[1], turned.shape[0], note)


def _load_truncated(data: bytes) -> Image.Image:
    """Pillow stops at the first missing byte unless told, for the whole process, to go on."""
    from PIL import ImageFile

    ImageFile.LOAD_TRUNCATED_IMAGES = True
    try:
        picture = Image.open(io.BytesIO(data))
        picture.load()
        return picture
    finally:
        ImageFile.LOAD_TRUNCATED_IMAGES = False


def _rgb(picture: Image.Image, profile: bytes | None) -> Pixels:
    """Any Pillow picture as sRGB; transparency lies on white."""
    if picture.mode.startswith("I;16") or picture.mode in ("I", "F"):
        values = np.asarray(picture).astype(np.float32)
        top = 65535.0 if picture.mode != "F" else max(float(values.max()), 1e-9)
        grey = np.clip(values / top * 255, 0, 255).astype(np.uint8)
        return np.repeat(grey[..., None], 3, axis=2)
    if picture.mode == "CMYK" and profile:
        converted = ImageCms.profileToProfile(
            picture, io.BytesIO(profile), ImageCms.createProfile("sRGB"), outputMode="RGB"
        )
        picture, profile = converted or picture, None
    if picture.has_transparency_data:
        picture = picture.convert("RGBA")
        ground = Image.new("RGBA", picture.size, "white")
        picture = Image.alpha_composite(ground, picture)
    return to_srgb(np.asarray(picture.convert("RGB")), profile)


def to_srgb(pixels: Pixels, profile: bytes | None) -> Pixels:
    """RGB pixels under an embedded ICC profile, converted to sRGB. Without a profile, or with one
    that cannot be used, the pixels are taken for sRGB, as browsers do."""
    if not profile:
        return pixels
    transform = _transform(profile)
    if transform is None:
        return pixels
    picture = Image.fromarray(pixels)
    return np.asarray(transform.apply(picture))


@lru_cache(maxsize=16)
def _transform(profile: bytes) -> ImageCms.ImageCmsTransform | None:
    try:
        source = ImageCms.ImageCmsProfile(io.BytesIO(profile))
        if source.profile.xcolor_space.strip() != "RGB":
            return None
        if "sRGB" in (source.profile.profile_description or ""):
            return None
        return ImageCms.buildTransform(source, ImageCms.createProfile("sRGB"), "RGB", "RGB")
    except (ImageCms.PyCMSError, OSError, ValueError, TypeError):
        return None


def _decode_raw(path: Path, long_edge: int) -> Decoded:
    try:
        found = raw.best_picture(path, long_edge)
    except raw.RawError as error:
        raise UnreadableError(str(error)) from error
    except (OSError, MemoryError) as error:
        raise _unreadable(path, error) from error
    if isinstance(found, raw.Embedded):
        inner = decode_jpeg(found.jpeg, path, long_edge, turn=found.orientation)
        return Decoded(inner.pixels, found.width, found.height, inner.note)
    return Decoded(found.pixels, found.width, found.height)


def _raw_head(path: Path) -> Head:
    try:
        width, height = raw.size_of(path)
        with path.open("rb") as file:
            tags = exif.tags_of_raw(file)
            file.seek(0)
            packet = xmp.find_packet(file.read(4 * HEAD_BYTES))
    except (raw.RawError, OSError) as error:
        raise _unreadable(path, error) from error
    return Head(width, height, tags, packet)


def is_raw(path: Path) -> bool:
    return split_name(path.name)[1] in RAWS


def is_browser_jpeg(path: Path) -> bool:
    """Whether a browser shows all pixels of this file as Winnow would: a JPEG that is not CMYK."""
    try:
        with Image.open(path) as picture:
            return picture.format in ("JPEG", "MPO") and picture.mode in ("RGB", "L")
    except Exception:  # noqa: BLE001 - whatever it is, it is none
        return False


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


def encode_jpeg(pixels: Pixels, quality: int) -> bytes:
    """Pixels as a baseline JPEG with 4:2:0 colour."""
    packed = np.ascontiguousarray(pixels)
    return bytes(simplejpeg.encode_jpeg(packed, quality, colorspace="RGB", colorsubsampling="420"))


def orientation_of(tags: dict[str, object]) -> int:
    """The Exif orientation code in tags, 1 where there is none that makes sense."""
    value = tags.get("Orientation")
    return value if isinstance(value, int) and value in range(1, 9) else 1


def _refuse_empty(path: Path) -> None:
    try:
        size = path.stat().st_size
    except OSError as error:
        raise _unreadable(path, error) from error
    if size == 0:
        raise UnreadableError("The file is empty (0 bytes): copy it from the card again.")


def _refuse_bomb(width: int, height: int) -> None:
    if width * height > MAX_PIXELS:
        raise UnreadableError(
            f"It has {width * height / 1e6:.0f} megapixels; Winnow opens up to "
            f"{MAX_PIXELS / 1e6:.0f}. Export a smaller version to see it here."
        )


def _unreadable(path: Path, error: Exception) -> UnreadableError:
    passing = isinstance(error, MemoryError) or (isinstance(error, OSError) and error.errno is not None)
    return UnreadableError(_reason(path, error), passing=passing)


def _reason(path: Path, error: Exception) -> str:
    """A message for a person from whatever a decoder raised."""
    if isinstance(error, PermissionError):
        return "You have no permission to read this file: change its permissions."
    if isinstance(error, FileNotFoundError):
        return "The file is no longer there."
    if isinstance(error, OSError) and error.errno is not None:
        return f"The disk could not deliver the file ({error.strerror}): copy it again."
    if isinstance(error, MemoryError):
        return "There was not enough memory to open it: end other programs, then try again."
    kind = split_name(path.name)[1].upper()
    try:
        with path.open("rb") as file:
            start = file.read(64)
    except OSError:
        start = b""
    if start and all(32 <= byte < 127 or byte in b"\r\n\t" for byte in start):
        return f"It is named {kind} but holds text, not a picture."
    return f"It is not a {kind} that can be decoded ({error})."
