"""The name that a file had first, in its sidecar.

Source: XMP Specification Part 2, XMP Media Management: `xmpMM:PreservedFileName`, the file name with its ending that
the file had when it was brought in.
"""

from __future__ import annotations

import re
from functools import lru_cache
from xml.sax.saxutils import quoteattr

from winnow.core.xmp_marks import XmpMarks
from winnow.formats import xmp

NS_XMP_MM = "http://ns.adobe.com/xap/1.0/mm/"
PRESERVED = f"{{{NS_XMP_MM}}}PreservedFileName"

_OPENING = b"<rdf:Description"
_NOT_IN_XML = re.compile("[\x00-\x08\x0b\x0c\x0e-\x1f\ufffe\uffff\ud800-\udfff]")


def with_first_name(packet: bytes | None, name: str) -> bytes | None:
    """The packet (None: a new one) with the name in it; None where it says one already: the first counts. Raises
    XmpError."""
    text = _NOT_IN_XML.sub("_", name)
    if packet is None:
        said = f' xmlns:xmpMM="{NS_XMP_MM}" xmpMM:PreservedFileName={quoteattr(text)}'
        return _empty().replace(_OPENING, _OPENING + said.encode(), 1)
    return xmp.Packet(packet).with_property(PRESERVED, text, {NS_XMP_MM: "xmpMM"})


@lru_cache(maxsize=1)
def _empty() -> bytes:
    return xmp.write_marks(None, XmpMarks())
