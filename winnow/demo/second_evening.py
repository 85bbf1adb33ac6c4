"""The frames of a second card: a few that are in the demo shoot already, and those of the next evening.

Made by code from frames of the first: the other way round, a day later.
"""

from __future__ import annotations

import os
import shutil
from datetime import datetime, timedelta
from pathlib import Path

from PIL import ExifTags, Image, ImageOps

BODY, ON_CARD = "101TARN", "102TARNS"
HERE_ALREADY = tuple(f"TRN_{n:04d}.JPG" for n in range(541, 551))
"""The card was not emptied: the last frames of the evening before are still on it."""
AGAIN = tuple(f"TRN_{n:04d}.JPG" for n in range(440, 464))
FIRST_NUMBER = 551
LATER = timedelta(days=1, minutes=-25)
QUALITY = 90


def make(first: Path, folder: Path) -> None:
    """Writes the frames in folders as DCF asks for. first: the frames that ship."""
    body = folder / ON_CARD
    body.mkdir(parents=True)
    for name in HERE_ALREADY:
        shutil.copy2(first / BODY / name, body / name)
    seen = [first / BODY / name for name in AGAIN if (first / BODY / name).exists()]
    for number, path in enumerate(seen, FIRST_NUMBER):
        with Image.open(path) as picture:
            exif, profile = picture.getexif(), picture.info.get("icc_profile")
            on_its_side = exif.get(ExifTags.Base.Orientation, 1) >= 5
            made = (ImageOps.flip if on_its_side else ImageOps.mirror)(picture)
        details = exif.get_ifd(ExifTags.IFD.Exif)
        taken = datetime.strptime(details[ExifTags.Base.DateTimeOriginal], "%Y:%m:%d %H:%M:%S") + LATER
        exif[ExifTags.Base.DateTime] = f"{taken:%Y:%m:%d %H:%M:%S}"
        for time in (ExifTags.Base.DateTimeOriginal, ExifTags.Base.DateTimeDigitized):
            details[time] = f"{taken:%Y:%m:%d %H:%M:%S}"
        file = body / f"TRN_{number:04d}.JPG"
        made.save(file, quality=QUALITY, exif=exif, icc_profile=profile)
        _date(file)


def _date(file: Path) -> None:
    """Cameras date files as they write them."""
    with Image.open(file) as picture:
        details = picture.getexif().get_ifd(ExifTags.IFD.Exif)
    at = datetime.strptime(details[ExifTags.Base.DateTimeOriginal], "%Y:%m:%d %H:%M:%S").timestamp()
    os.utime(file, (at, at))
