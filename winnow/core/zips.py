"""What reading a ZIP file raises that was damaged on the way, or by somebody."""

from __future__ import annotations

import lzma
import struct
import zipfile
import zlib

DAMAGED = (
    zipfile.BadZipFile,
    zlib.error,
    lzma.LZMAError,
    struct.error,
    EOFError,
    KeyError,
    NotImplementedError,
    OSError,
    OverflowError,
    RuntimeError,
    ValueError,
)
"""Each was seen, or can be read off `zipfile`, which trusts offsets and names of methods as they stand in the file.
OSError: also what a disk says while it is read."""
