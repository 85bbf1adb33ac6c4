"""DNG files for the tests, as cameras write them: a JPEG preview in the first directory, the picture
in a sub-directory. Source: DNG and TIFF 6.0 specifications."""

from __future__ import annotations

import struct
from pathlib import Path

import numpy as np

_MATRIX = [3.2406, -1.5372, -0.4986, -0.9689, 1.8758, 0.0415, 0.0557, -0.2040, 1.0570]
_CODES = {"B": "B", "H": "H", "I": "I", "s": "s", "2i": "i", "2I": "I"}
_TYPES = {"B": 1, "s": 2, "H": 3, "I": 4, "2I": 5, "2i": 10}

Tags = dict[int, tuple[str, list[int] | bytes]]


def write_dng_with_preview(path: Path, rgb: np.ndarray, jpeg: bytes, orientation: int = 1) -> None:
    """rgb: (rows, columns, 3) 8-bit, as stored. jpeg: the embedded preview, as stored."""
    linear = ((rgb / 255.0) ** 2.2 * 65535).astype("<u2").tobytes()
    rows, columns = rgb.shape[:2]
    start = 8
    preview_at, picture_at = start, start + len(jpeg) + len(jpeg) % 2
    first_at = picture_at + len(linear)
    matrix = [v for m in _MATRIX for v in (round(m * 10000), 10000)]
    picture: Tags = {
        254: ("I", [0]), 256: ("I", [columns]), 257: ("I", [rows]), 258: ("H", [16] * 3),
        259: ("H", [1]), 262: ("H", [34892]), 273: ("I", [picture_at]), 277: ("H", [3]),
        278: ("I", [rows]), 279: ("I", [len(linear)]), 284: ("H", [1]),
    }  # fmt: skip

    def preview(sub_at: int) -> Tags:
        return {
            254: ("I", [1]), 256: ("I", [columns]), 257: ("I", [rows]), 258: ("H", [8] * 3),
            259: ("H", [7]), 262: ("H", [6]), 271: ("s", b"Tarn\0"), 272: ("s", b"T2\0"),
            273: ("I", [preview_at]), 274: ("H", [orientation]), 277: ("H", [3]), 278: ("I", [rows]),
            279: ("I", [len(jpeg)]), 330: ("I", [sub_at]), 50706: ("B", [1, 4, 0, 0]),
            50708: ("s", b"Tarn T2\0"), 50721: ("2i", matrix), 50728: ("2I", [1] * 6),
            50778: ("H", [21]),
        }  # fmt: skip

    sub_at = first_at + len(_directory(preview(0), first_at))
    body = jpeg + b"\0" * (len(jpeg) % 2) + linear
    header = b"II*\0" + struct.pack("<I", first_at)
    path.write_bytes(header + body + _directory(preview(sub_at), first_at) + _directory(picture, sub_at))


def _directory(tags: Tags, at: int) -> bytes:
    """A TIFF directory at offset `at`, with the values that do not fit into it right behind."""
    entries, behind = b"", b""
    rest_at = at + 2 + 12 * len(tags) + 4
    for tag, (kind, values) in sorted(tags.items()):
        data = values if isinstance(values, bytes) else struct.pack(f"<{len(values)}{_CODES[kind]}", *values)
        count = len(values) // 2 if kind in ("2i", "2I") else len(values)
        if len(data) > 4:
            inline = struct.pack("<I", rest_at + len(behind))
            behind += data + b"\0" * (len(data) % 2)
        else:
            inline = data.ljust(4, b"\0")
        entries += struct.pack("<HHI", tag, _TYPES[kind], count) + inline
    return struct.pack("<H", len(tags)) + entries + b"\0\0\0\0" + behind
