"""ICC profiles of colour spaces that are known by their primaries: Display P3, and Adobe RGB (1998), which cameras
announce without putting a profile into the file.

Sources: ICC.1:2022 (profile version 4.4) for the layout; primaries and white of SMPTE EG 432-1 with the curve of
IEC 61966-2-1 (Display P3, as in CSS Color 4); Adobe RGB (1998) Color Image Encoding, 2005, for the other.
"""

from __future__ import annotations

import struct
from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

D65 = (0.3127, 0.3290)
D50_XYZ = (0.9642, 1.0, 0.8249)
"""The white of the profile connection space (ICC.1, 7.2.16)."""
BRADFORD = np.array([[0.8951, 0.2664, -0.1614], [-0.7502, 1.7135, 0.0367], [0.0389, -0.0685, 1.0296]])
"""To the cones' responses that are scaled from white to white (ICC.1, annex E)."""

Primaries = tuple[tuple[float, float], tuple[float, float], tuple[float, float]]


def matrix_profile(name: str, primaries: Primaries, curve: Sequence[float]) -> bytes:
    """A display profile of three primaries (x, y) under D65. curve: g, a, b, c, d of a parametric curve of type 3,
    or g alone (ICC.1, 10.18)."""
    adapt = _adaptation()
    columns = adapt @ _rgb_to_xyz(primaries)
    kind = 3 if len(curve) > 1 else 0
    tone = b"para" + bytes(4) + struct.pack(">HH", kind, 0) + _fixed(*curve)
    tags = {
        b"desc": _text(name),
        b"cprt": _text("No copyright, use freely"),
        b"wtpt": b"XYZ " + bytes(4) + _fixed(*D50_XYZ),
        b"chad": b"sf32" + bytes(4) + _fixed(*adapt.ravel()),
        b"rXYZ": b"XYZ " + bytes(4) + _fixed(*columns[:, 0]),
        b"gXYZ": b"XYZ " + bytes(4) + _fixed(*columns[:, 1]),
        b"bXYZ": b"XYZ " + bytes(4) + _fixed(*columns[:, 2]),
        b"rTRC": tone,
        b"gTRC": tone,
        b"bTRC": tone,
    }
    return _assembled(tags)


def _assembled(tags: dict[bytes, bytes]) -> bytes:
    table, body = struct.pack(">I", len(tags)), b""
    start = 128 + 4 + 12 * len(tags)
    for signature, content in tags.items():
        table += signature + struct.pack(">II", start + len(body), len(content))
        body += content + bytes(-len(content) % 4)
    size = 128 + len(table) + len(body)
    head = struct.pack(">I4xI4s4s4s", size, 0x04400000, b"mntr", b"RGB ", b"XYZ ")
    head += struct.pack(">6H", 2026, 1, 1, 0, 0, 0) + b"acsp" + bytes(28) + _fixed(*D50_XYZ)
    return head.ljust(128, b"\0") + table + body


def _text(words: str) -> bytes:
    encoded = words.encode("utf-16-be")
    return b"mluc" + bytes(4) + struct.pack(">II2s2sII", 1, 12, b"en", b"US", len(encoded), 28) + encoded


def _fixed(*values: float) -> bytes:
    """s15Fixed16 numbers."""
    return struct.pack(f">{len(values)}i", *(round(65536 * float(value)) for value in values))


def _xyz(x: float, y: float) -> NDArray[np.float64]:
    return np.array([x / y, 1.0, (1 - x - y) / y])


def _rgb_to_xyz(primaries: Primaries) -> NDArray[np.float64]:
    columns = np.stack([_xyz(*primary) for primary in primaries], axis=1)
    return columns * np.linalg.solve(columns, _xyz(*D65))


def _adaptation() -> NDArray[np.float64]:
    scale = (BRADFORD @ np.array(D50_XYZ)) / (BRADFORD @ _xyz(*D65))
    adapted: NDArray[np.float64] = np.linalg.inv(BRADFORD) @ np.diag(scale) @ BRADFORD
    return adapted


DISPLAY_P3 = matrix_profile(
    "Display P3",
    ((0.680, 0.320), (0.265, 0.690), (0.150, 0.060)),
    (2.4, 1 / 1.055, 0.055 / 1.055, 1 / 12.92, 0.04045),
)
ADOBE_RGB = matrix_profile("Adobe RGB (1998)", ((0.64, 0.33), (0.21, 0.71), (0.15, 0.06)), (563 / 256,))
