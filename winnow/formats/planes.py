"""The planes of a JPEG, where the system has libturbojpeg and PyTurboJPEG is installed (`winnow[planes]`).

Without it, and for whatever it refuses, the way by RGB is taken: the same results for some more work. Damage is
refused too, so that it is that way which tells of it.
"""

from __future__ import annotations

import warnings
from functools import lru_cache
from typing import Any

from winnow.core.picture import Planes
from winnow.formats.colour import is_srgb
from winnow.formats.images import JpegHead


def decode_planes(data: bytes, head: JpegHead) -> Planes | None:
    """The planes of a JPEG, upright; None where it has none, or where its colours are not those of sRGB."""
    turbo = library()
    even = head.width % 2 == 0 and head.height % 2 == 0
    if turbo is None or head.colours != "YCbCr" or not even or not is_srgb(head.profile):
        return None
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("error")  # which is how it tells of damage
            stored = turbo.decode_to_yuv_planes(data)
    except Exception:  # noqa: BLE001 - arbitrary bytes; whatever it refuses goes the other way
        return None
    luma, cb, cr = stored
    luma = luma[: head.height, : head.width]
    if any(side not in (part, 2 * part) for side, part in zip(luma.shape, cb.shape, strict=True)):
        return None
    return Planes(luma, cb, cr).turned(head.orientation)


@lru_cache(maxsize=1)
def library() -> Any:
    """The library, looked for once a process; None where it is missing."""
    try:
        from turbojpeg import TurboJPEG

        return TurboJPEG()
    except (ImportError, OSError, RuntimeError, AttributeError):
        return None
