"""Capture data: what the camera wrote down, out of Exif tags.

Source of tag names and meanings: CIPA DC-008 (Exif 2.32 / 3.0).
"""

from __future__ import annotations

import math
import re
from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime, timedelta, timezone

from winnow.core.identity import Exposure


@dataclass(frozen=True, slots=True)
class Area:
    """A part of a picture, px: its middle, and its width and height, 0 where only a point is known."""

    x: float
    y: float
    width: float = 0.0
    height: float = 0.0


@dataclass(frozen=True, slots=True)
class Capture:
    """Capture data of one frame; None where the file does not say.

    `captured_at` is ISO 8601 local time, with the offset when the camera wrote one. `focal_mm` is
    the real focal length, `shutter_s` seconds, `bias_ev` stops, `orientation` the Exif code 1–8.
    `subject_area`: in px of the picture as stored. `image_id`: ImageUniqueID, else ImageNumber.
    """

    captured_at: str | None = None
    camera: str | None = None
    serial: str | None = None
    lens: str | None = None
    focal_mm: float | None = None
    aperture: float | None = None
    shutter_s: float | None = None
    iso: int | None = None
    bias_ev: float | None = None
    orientation: int = 1
    subject_area: Area | None = None
    image_id: str | None = None

    @property
    def exposure(self) -> Exposure:
        """What tells this exposure from others."""
        return Exposure(self.captured_at, self.serial, self.camera, self.image_id)


def from_tags(tags: Mapping[str, object]) -> Capture:
    """Capture data from Exif tags by their standard names; values that make no sense are None."""
    iso = _number(tags.get("PhotographicSensitivity", tags.get("ISOSpeedRatings")))
    orientation = _number(tags.get("Orientation"))
    return Capture(
        captured_at=_captured_at(tags),
        camera=_camera(_text(tags.get("Make")), _text(tags.get("Model"))),
        serial=_text(tags.get("BodySerialNumber")),
        lens=_text(tags.get("LensModel")),
        focal_mm=_positive(tags.get("FocalLength")),
        aperture=_positive(tags.get("FNumber")),
        shutter_s=_positive(tags.get("ExposureTime")),
        iso=int(iso) if iso and 0 < iso < 65535 else None,
        bias_ev=_number(tags.get("ExposureBiasValue")),
        orientation=int(orientation) if orientation and orientation in range(1, 9) else 1,
        subject_area=_subject_area(tags.get("SubjectArea", tags.get("SubjectLocation"))),
        image_id=_image_id(tags),
    )


def _image_id(tags: Mapping[str, object]) -> str | None:
    unique = _text(tags.get("ImageUniqueID"))
    if unique and unique.strip("0"):
        return unique
    number = _number(tags.get("ImageNumber"))
    return f"number {number:.0f}" if number else None


def _subject_area(value: object) -> Area | None:
    """SubjectArea of two numbers (a point), three (a circle, by its diameter) or four (a rectangle, by width and
    height): the middle comes first."""
    if not isinstance(value, (list, tuple)) or not 2 <= len(value) <= 4:
        return None
    numbers = [_number(number) for number in value]
    if any(number is None or number < 0 for number in numbers) or not numbers[0] or not numbers[1]:
        return None
    x, y, *size = (float(number) for number in numbers if number is not None)
    return Area(x, y, size[0] if size else 0.0, size[-1] if size else 0.0)


def _captured_at(tags: Mapping[str, object]) -> str | None:
    kinds = (
        ("DateTimeOriginal", "SubSecTimeOriginal", "OffsetTimeOriginal"),
        ("DateTimeDigitized", "SubSecTimeDigitized", "OffsetTimeDigitized"),
    )
    for when, fraction, offset in kinds:
        moment = _moment(tags.get(when), tags.get(fraction), tags.get(offset))
        if moment:
            return moment
    return None


def _moment(when: object, fraction: object, offset: object) -> str | None:
    found = re.match(r"(\d{4})[:\-](\d\d)[:\-](\d\d)[ T](\d\d):(\d\d):(\d\d)", _text(when) or "")
    if not found:
        return None
    try:
        moment = datetime(*(int(part) for part in found.groups()))  # type: ignore[arg-type]
    except ValueError:
        return None
    digits = re.match(r"\d+", _text(fraction) or "")
    if digits:
        moment += timedelta(seconds=float(f"0.{digits.group()}"))
    zone = re.fullmatch(r"([+-])(\d\d):(\d\d)", _text(offset) or "")
    if zone and int(zone[2]) < 24 and int(zone[3]) < 60:
        delta = timedelta(hours=int(zone[2]), minutes=int(zone[3]))
        moment = moment.replace(tzinfo=timezone(delta if zone[1] == "+" else -delta))
    return moment.isoformat(timespec="milliseconds" if digits else "seconds")


def _camera(make: str | None, model: str | None) -> str | None:
    """Make and model as one name, without saying the make twice."""
    if not make or not model:
        return model or make
    return model if model.lower().startswith(make.split()[0].lower()) else f"{make} {model}"


def _text(value: object) -> str | None:
    if isinstance(value, bytes):
        value = value.decode("utf-8", "replace")
    if not isinstance(value, str):
        return None
    return value.split("\0")[0].strip() or None


def _number(value: object) -> float | None:
    if isinstance(value, (list, tuple)):
        value = value[0] if value else None
    try:
        number = float(value)  # type: ignore[arg-type]
    except (TypeError, ValueError, ZeroDivisionError, OverflowError):
        return None
    return number if math.isfinite(number) else None


def _positive(value: object) -> float | None:
    number = _number(value)
    return number if number is not None and number > 0 else None
