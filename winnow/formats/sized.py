"""JPEGs of a size, for screens and clients: upright, in sRGB with its profile, saying as much as is wanted.

Sources: IEC 61966-2-1 (sRGB; the profile is the one that LittleCMS makes); CIPA DC-008 (Exif: an upright picture says
orientation 1, PixelXDimension and PixelYDimension are those of the picture it stands in); XMP in JPEG: ISO 16684-1.
"""

from __future__ import annotations

import io
from dataclasses import dataclass
from enum import StrEnum
from functools import cache
from pathlib import Path

import exifread.utils
import numpy as np
from PIL import ExifTags, Image, ImageCms, ImageDraw, ImageFilter, ImageFont, TiffImagePlugin

from winnow.core.marks import Marks
from winnow.core.words import list_of
from winnow.core.xmp_marks import XmpMarks, to_xmp
from winnow.formats import exif, images, xmp
from winnow.formats.images import UnreadableError

MOST_EDGE = 20_000
WATERMARK_SHARE = 40
"""A line of a watermark is this part of the long edge high."""
RADIUS_PX, AMOUNT_PERCENT = 0.6, 70
"""Of the unsharp mask: common practice for pictures that were reduced for a screen, no source."""

_DESCRIBES = ("DateTimeOriginal", "ExposureTime", "FNumber", "FocalLength", "LensModel", "OffsetTimeOriginal")
_ON_TOP = ("Make", "Model")
_CONTACT = ("Artist", "Copyright")
_ISO = "PhotographicSensitivity"


class Metadata(StrEnum):
    """What is said in the file: all that the original says and the marks; who made it and whose it is; nothing."""

    ALL = "all"
    CONTACT = "contact"
    NONE = "none"


@dataclass(frozen=True, slots=True)
class Sized:
    """long_edge: px, of pictures that are not smaller; quality: of JPEG, as libjpeg counts; sharpen: for screens;
    watermark: text in the lower right corner. Raises ValueError."""

    long_edge: int
    quality: int = 88
    sharpen: bool = True
    metadata: Metadata = Metadata.ALL
    watermark: str = ""

    def __post_init__(self) -> None:
        # As a plan keeps it, it is a word: only the thing itself is told apart below.
        object.__setattr__(self, "metadata", Metadata(self.metadata))
        if not 64 <= self.long_edge <= MOST_EDGE:
            raise ValueError(f"The long edge is from 64 to {MOST_EDGE} px.")
        if not 30 <= self.quality <= 100:
            raise ValueError("The quality is from 30 to 100.")


def render(path: Path, wanted: Sized, marks: Marks, below: str | None = None) -> bytes:
    """The picture of a frame as a JPEG. below: see `opening`. Raises UnreadableError."""
    decoded = images.decode(path, wanted.long_edge, below)
    pixels = np.rot90(images.shrink(decoded.pixels, wanted.long_edge), -marks.turn)
    picture = Image.fromarray(np.ascontiguousarray(pixels))
    if wanted.sharpen:
        picture = picture.filter(ImageFilter.UnsharpMask(RADIUS_PX, AMOUNT_PERCENT, threshold=0))
    if wanted.watermark:
        picture = _marked(picture, wanted.watermark)
    out = io.BytesIO()
    said: dict[str, object] = {}
    if wanted.metadata is not Metadata.NONE:
        said["exif"] = _exif(path, picture.size, wanted.metadata, marks, below)
        said["xmp"] = _xmp(wanted.metadata, marks)
    picture.save(out, "JPEG", quality=wanted.quality, icc_profile=srgb_profile(), optimize=True, **said)
    return out.getvalue()


def _marked(picture: Image.Image, text: str) -> Image.Image:
    """A text over the lower right corner, light with a dark rim, so that it stands out on anything."""
    edge = max(picture.size)
    font = ImageFont.load_default(max(12, edge // WATERMARK_SHARE))
    over = Image.new("RGBA", picture.size)
    pen = ImageDraw.Draw(over)
    left, top, right, bottom = pen.textbbox((0, 0), text, font=font, stroke_width=1)
    margin = edge // 60
    place = (picture.width - (right - left) - margin - left, picture.height - (bottom - top) - margin - top)
    pen.text(place, text, (255, 255, 255, 170), font, stroke_width=1, stroke_fill=(0, 0, 0, 110))
    return Image.alpha_composite(picture.convert("RGBA"), over).convert("RGB")


@cache
def srgb_profile() -> bytes:
    """The ICC profile of sRGB."""
    return ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB")).tobytes()


def _xmp(metadata: Metadata, marks: Marks) -> bytes:
    """Marks and words without the turn, which the pixels have."""
    if metadata is Metadata.CONTACT:
        return xmp.write_marks(None, XmpMarks(creator=marks.creator, copyright=marks.copyright))
    return xmp.write_marks(None, to_xmp(marks))


def _exif(
    path: Path, size: tuple[int, int], metadata: Metadata, marks: Marks, below: str | None
) -> Image.Exif:
    block = Image.Exif()
    inner = block.get_ifd(ExifTags.IFD.Exif)
    try:
        with images.opened(path, below) as file:
            if images.is_raw(path):
                _take_over(exif.tags_of_raw(file), block, inner, metadata)
            else:
                with Image.open(file) as original:
                    _copy(original.getexif(), block, inner, metadata)
    except (UnreadableError, OSError, ValueError, SyntaxError):
        pass  # it was decoded all the same: then it is handed on without what it says
    for tag, word in zip(_CONTACT, ("; ".join(list_of(marks.creator)), marks.copyright), strict=True):
        if word:
            block[ExifTags.Base[tag]] = word.encode()  # Exif 3.0 allows UTF-8, and readers take it
    if metadata is Metadata.ALL:
        block[ExifTags.Base.Orientation] = 1
        inner[ExifTags.Base.ExifImageWidth], inner[ExifTags.Base.ExifImageHeight] = size
        inner[ExifTags.Base.ColorSpace] = 1
    return block


def _copy(original: Image.Exif, block: Image.Exif, inner: dict[int, object], metadata: Metadata) -> None:
    """Of an original that Pillow reads: all of it but the thumbnail, which shows another picture, and what only the
    camera's maker understands."""
    if metadata is Metadata.CONTACT:
        for tag in _CONTACT:
            if ExifTags.Base[tag] in original:
                block[ExifTags.Base[tag]] = original[ExifTags.Base[tag]]
        return
    for number, value in original.items():
        if number not in (ExifTags.IFD.Exif, ExifTags.IFD.GPSInfo):
            block[number] = value
    left = (ExifTags.Base.MakerNote, ExifTags.IFD.Interop, *(ExifTags.Base[tag] for tag in _CONTACT))
    inner |= {n: v for n, v in original.get_ifd(ExifTags.IFD.Exif).items() if n not in left}
    gps = original.get_ifd(ExifTags.IFD.GPSInfo)
    if gps:
        block.get_ifd(ExifTags.IFD.GPSInfo).update(gps)


def _take_over(
    tags: dict[str, object], block: Image.Exif, inner: dict[int, object], metadata: Metadata
) -> None:
    """Of a RAW file: what tells how the picture was taken."""
    wanted = _CONTACT if metadata is Metadata.CONTACT else (*_CONTACT, *_ON_TOP, *_DESCRIBES)
    for name in wanted:
        value = tags.get(name)
        if value is None:
            continue
        if isinstance(value, exifread.utils.Ratio):
            value = TiffImagePlugin.IFDRational(value.numerator, value.denominator)
        (block if name in (*_CONTACT, *_ON_TOP) else inner)[ExifTags.Base[name]] = value
    iso = tags.get("ISOSpeedRatings", tags.get(_ISO))
    if metadata is Metadata.ALL and isinstance(iso, int):
        inner[ExifTags.Base.ISOSpeedRatings] = iso
