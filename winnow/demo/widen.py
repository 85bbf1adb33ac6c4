"""What a real card brings besides good JPEGs: RAW companions, marks from elsewhere, damage.

Made by code from the shipped frames when the working copy is laid out.
"""

from __future__ import annotations

from pathlib import Path

from winnow.demo import dng, second_body
from winnow.demo.second_body import add_second_body

TARN = "101TARN"

WITH_RAW = (*(f"TRN_{n:04d}" for n in range(428, 434)), *(f"TRN_{n:04d}" for n in range(501, 507)))
"""Mara by the window and June under the bulbs were shot as RAW and JPEG."""

EARLIER_PASS: dict[str, tuple[int, str | None]] = {
    "TRN_0412": (3, None),
    "TRN_0414": (-1, None),
    "TRN_0416": (4, "Client"),
    "TRN_0418": (-1, None),
    "TRN_0419": (3, "Publish"),
    "TRN_0424": (2, None),
    "TRN_0426": (-1, None),
}
"""(xmp:Rating, xmp:Label) that somebody gave before, on another program."""

DEVELOPED = "TRN_0430"
"""This frame's sidecar carries more than marks: development settings and properties of others."""

TRUNCATED, EMPTY, TEXT = "TRN_0551.JPG", "TRN_0552.JPG", "TRN_0553.JPG"
_TRUNCATED_FROM = "TRN_0550.JPG"

_MARKS = """<?xpacket begin="\ufeff" id="W5M0MpCehiHzreSzNTczkc9d"?>
<x:xmpmeta xmlns:x="adobe:ns:meta/">
 <rdf:RDF xmlns:rdf="http://www.w3.org/1999/02/22-rdf-syntax-ns#">
  <rdf:Description rdf:about="" xmlns:xmp="http://ns.adobe.com/xap/1.0/">
{properties}
  </rdf:Description>
 </rdf:RDF>
</x:xmpmeta>
<?xpacket end="w"?>
"""

_SETTINGS = """<x:xmpmeta xmlns:x="adobe:ns:meta/">
 <rdf:RDF xmlns:rdf="http://www.w3.org/1999/02/22-rdf-syntax-ns#"
   xmlns:xmp="http://ns.adobe.com/xap/1.0/"
   xmlns:dc="http://purl.org/dc/elements/1.1/"
   xmlns:tray="urn:made-up-developer:settings:2.1/">
  <rdf:Description rdf:about="" xmp:Rating="4" tray:Warmth="5150" tray:Lift="+0.35"
    tray:Crop="0.02 0.00 0.98 0.94">
   <dc:creator><rdf:Seq><rdf:li>Winnow demo</rdf:li></rdf:Seq></dc:creator>
   <dc:subject><rdf:Bag><rdf:li>Mara</rdf:li><rdf:li>window light</rdf:li></rdf:Bag></dc:subject>
   <tray:Curve><rdf:Seq>
    <rdf:li>0 0</rdf:li><rdf:li>96 110</rdf:li><rdf:li>255 255</rdf:li>
   </rdf:Seq></tray:Curve>
  </rdf:Description>
 </rdf:RDF>
</x:xmpmeta>
"""


def widen(folder: Path) -> None:
    """Adds to a fresh working copy of the demo shoot."""
    body = folder / TARN
    for name in WITH_RAW:
        (body / f"{name}.DNG").write_bytes(dng.from_jpeg((body / f"{name}.JPG").read_bytes()))
    for name, (rating, label) in EARLIER_PASS.items():
        properties = [f"   <xmp:Rating>{rating}</xmp:Rating>"]
        properties += [f"   <xmp:Label>{label}</xmp:Label>"] if label else []
        (body / f"{name}.xmp").write_text(_MARKS.format(properties="\n".join(properties)), "utf-8")
    (body / f"{DEVELOPED}.xmp").write_text(_SETTINGS, "utf-8")
    add_second_body(body, folder / second_body.BODY)
    whole = (body / _TRUNCATED_FROM).read_bytes()
    (body / TRUNCATED).write_bytes(whole[: len(whole) * 2 // 5])
    (body / EMPTY).write_bytes(b"")
    (body / TEXT).write_text("Kiln log: cone 6 at 20:40, lid stays shut until morning.\n", "utf-8")
