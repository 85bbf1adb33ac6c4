"""How much memory a picture will take, asked before it is decoded.

A worker gets `WORKER_BYTES`; what it takes without any picture is subtracted. Bytes a pixel were measured on this
code (docs/trust.md), and hold what libraries need inside beside what they return.
"""

from __future__ import annotations

import sys
from pathlib import Path

WORKER_BYTES = 600 * 1024**2
WITHOUT_PICTURE_BYTES = 160 * 1024**2
"""A worker with its libraries and networks loaded, and what measuring takes whatever the size of the picture."""
PICTURE_BYTES = WORKER_BYTES - WITHOUT_PICTURE_BYTES
MAX_FILE_BYTES = 2 * 1024**3
"""A larger file is no picture of a camera."""

OURS = 3
"""Bytes of an RGB pixel."""
TURNED = 2 * OURS
"""A picture and the same turned upright, for as long as it takes to turn it."""
MEASURED = 5.4
"""A picture and the reduced and grey ones that are measured."""

_SAMPLES = {"444": 3.0, "440": 2.0, "422": 2.0, "420": 1.5, "411": 1.5, "Gray": 1.0}
_COEFFICIENT_BYTES = 2


class TooMuchMemoryError(ValueError):
    """Opening a picture would take more memory than a worker has; the message is meant for a person."""


def demand(width: int, height: int, bytes_a_pixel: float, beside: int = 0) -> None:
    """Raises TooMuchMemoryError where a picture needs too much. beside: bytes that are held meanwhile."""
    need = _need(width, height, bytes_a_pixel, beside)
    if need > PICTURE_BYTES:
        raise TooMuchMemoryError(
            f"It has {width * height / 1e6:.0f} megapixels and would take {need / 1e6:.0f} MB of memory to open; "
            f"Winnow gives {PICTURE_BYTES / 1e6:.0f} MB to one picture. Export a smaller version to see it here."
        )


def fits(width: int, height: int, bytes_a_pixel: float, beside: int = 0) -> bool:
    """Whether `demand` would let it pass."""
    return _need(width, height, bytes_a_pixel, beside) <= PICTURE_BYTES


def _need(width: int, height: int, bytes_a_pixel: float, beside: int) -> int:
    return int(width * height * bytes_a_pixel) + beside


def jpeg_need(subsampling: str, scaled: float, progressive: bool, turned: bool) -> float:
    """Bytes a pixel of the whole picture while a JPEG is decoded to `scaled` of its width and height.

    A progressive JPEG keeps all its coefficients until the last scan is read (ISO/IEC 10918-1, annex G).
    """
    out = scaled * scaled * (TURNED if turned else OURS)
    return out + (_SAMPLES.get(subsampling, 3.0) * _COEFFICIENT_BYTES if progressive else 0.0)


def bind() -> None:
    """Lets the system refuse what no header announced: allocations beyond the worker's share raise MemoryError.

    Linux counts private memory against RLIMIT_DATA (setrlimit(2)); elsewhere nothing is bound.
    """
    if sys.platform != "linux":
        return
    import resource

    try:
        pages = [int(field) for field in Path("/proc/self/statm").read_text().split()]
    except OSError:
        return
    page = resource.getpagesize()
    resident, reserved = pages[1] * page, pages[5] * page
    limit = reserved + WORKER_BYTES - resident
    resource.setrlimit(resource.RLIMIT_DATA, (limit, limit))
