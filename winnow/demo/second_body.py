"""Frames of the second photographer: what the first one's show, from a step beside, by a clock that is slow.

Made by code from frames of the first body when the working copy is laid out: turned a little, closer, moved.
"""

from __future__ import annotations

from datetime import datetime, timedelta
from pathlib import Path

import cv2
import numpy as np
from numpy.typing import NDArray
from PIL import ExifTags, Image

BODY = "102TMINI"
CLOCK_S = -200.0
"""How far its clock is ahead."""

_LIKE = "TMN_0109.JPG"
"""A frame of the second body: its camera and lens are told as in this one's Exif."""
_LATER_S = (0.21, -0.13, 0.34, 0.08, 0.27, -0.06)
"""Two people do not press at the same instant."""
_ZOOM, _TURN_DEG, _MOVED = 1.06, 0.7, (0.02, -0.012)
QUALITY = 90

MOMENTS: dict[str, str] = {
    "TMN_0120": "TRN_0462",
    "TMN_0121": "TRN_0466",
    "TMN_0122": "TRN_0528",
    "TMN_0123": "TRN_0530",
    "TMN_0124": "TRN_0531",
    "TMN_0125": "TRN_0533",
}
"""Frames of the second body, and what of the first they show: two across the table, and the group photo."""


def add_second_body(first: Path, second: Path) -> None:
    """Writes its frames. first, second: folders of the two bodies."""
    for (name, seen), later in zip(MOMENTS.items(), _LATER_S, strict=True):
        with Image.open(first / f"{seen}.JPG") as picture:
            taken = _taken(picture) + timedelta(seconds=later + CLOCK_S)
            made = Image.fromarray(_from_beside(np.asarray(picture.convert("RGB"))))
        with Image.open(second / _LIKE) as like:
            exif = like.getexif()
            details = exif.get_ifd(ExifTags.IFD.Exif)
        exif[ExifTags.Base.DateTime] = f"{taken:%Y:%m:%d %H:%M:%S}"
        for time in (ExifTags.Base.DateTimeOriginal, ExifTags.Base.DateTimeDigitized):
            details[time] = f"{taken:%Y:%m:%d %H:%M:%S}"
        for part in ("SubsecTime", "SubsecTimeOriginal", "SubsecTimeDigitized"):
            details[ExifTags.Base[part]] = f"{taken.microsecond // 1000:03d}"
        made.save(second / f"{name}.JPG", quality=QUALITY, exif=exif)


def _taken(picture: Image.Image) -> datetime:
    details = picture.getexif().get_ifd(ExifTags.IFD.Exif)
    at = datetime.strptime(details[ExifTags.Base.DateTimeOriginal], "%Y:%m:%d %H:%M:%S")
    return at + timedelta(milliseconds=int(details[ExifTags.Base.SubsecTimeOriginal]))


def _from_beside(picture: NDArray[np.uint8]) -> NDArray[np.uint8]:
    height, width = picture.shape[:2]
    turn = cv2.getRotationMatrix2D((width / 2, height / 2), _TURN_DEG, _ZOOM)
    turn[:, 2] += (_MOVED[0] * width, _MOVED[1] * height)
    return np.asarray(
        cv2.warpAffine(
            picture, turn, (width, height), flags=cv2.INTER_LANCZOS4, borderMode=cv2.BORDER_REFLECT
        ),
        np.uint8,
    )
