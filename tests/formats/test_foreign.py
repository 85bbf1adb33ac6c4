"""What other programs wrote into a packet is there after Winnow has written: property by property, as RDF.

Compared by RDF Dataset Canonicalization (W3C), with rdflib; packets made by exiftool and exiv2 (Debian), by the
stand-in editor, and by hand in the forms that ISO 16684-1 allows.
"""

from __future__ import annotations

import subprocess
from pathlib import Path

import pytest
from lxml import etree
from rdflib import Graph, URIRef
from rdflib.compare import to_isomorphic

from winnow.core.marks import Decision, Marks
from winnow.core.xmp_marks import to_xmp
from winnow.demo.editor import edit
from winnow.formats import xmp

RDF = "{http://www.w3.org/1999/02/22-rdf-syntax-ns#}RDF"
OURS = [
    "http://ns.adobe.com/xap/1.0/Rating",
    "http://ns.adobe.com/xap/1.0/Label",
    "urn:winnow:xmp:1.0/Decision",
    "urn:winnow:xmp:1.0/Stars",
    "http://purl.org/dc/elements/1.1/subject",
]
MARKS = Marks(Decision.KEEP, 4, "Kiln", keywords='["clay", "fire"]')
STRUCTURED = """<?xpacket begin='\ufeff' id='W5M0MpCehiHzreSzNTczkc9d'?>
<x:xmpmeta xmlns:x="adobe:ns:meta/"><rdf:RDF xmlns:rdf="http://www.w3.org/1999/02/22-rdf-syntax-ns#">
<rdf:Description rdf:about="" xmlns:dev="urn:example:dev/" dev:Exposure="+0.35" dev:Crop="0.1 0.2">
 <dev:Curve><rdf:Seq><rdf:li>0, 0</rdf:li><rdf:li>255, 240</rdf:li></rdf:Seq></dev:Curve>
 <dev:Mask rdf:parseType="Resource"><dev:Kind>radial</dev:Kind><dev:At dev:X="1" dev:Y="2"/></dev:Mask>
</rdf:Description>
<rdf:Description rdf:about="" xmlns:q="http://ns.adobe.com/xap/1.0/" xmlns:dc="http://purl.org/dc/elements/1.1/">
 <q:Rating>2</q:Rating><q:CreatorTool>Some program 7</q:CreatorTool>
 <dc:title><rdf:Alt><rdf:li xml:lang="x-default">Kiln</rdf:li><rdf:li xml:lang="ga">Áith</rdf:li></rdf:Alt></dc:title>
</rdf:Description></rdf:RDF></x:xmpmeta>
""" + " " * 200 + "<?xpacket end='w'?>"  # fmt: skip


def by_exiftool(path: Path) -> bytes:
    said = [
        "-XMP-xmp:Rating=1",
        "-XMP-photoshop:Instructions=no crop",
        "-XMP-iptcCore:Location=Kiln",
        "-XMP-dc:Title=T",
    ]
    subprocess.run(["exiftool", "-q", *said, path], check=True)
    return path.read_bytes()


def by_exiv2(path: Path) -> bytes:
    path.write_bytes(STRUCTURED.encode())
    command = "set Xmp.exifEX.LensModel XmpText Some lens 50 mm"
    subprocess.run(["exiv2", "-k", "-M", command, path], check=True, capture_output=True)
    return path.read_bytes()


def by_the_stand_in(path: Path) -> bytes:
    path.write_bytes(STRUCTURED.encode())
    edit([path.with_suffix(".jpg")])
    return path.read_bytes()


def foreign(packet: bytes) -> Graph:
    """All that is said in a packet but what is ours to say."""
    text = packet.decode("utf-16") if packet[:2] in (b"\xff\xfe", b"\xfe\xff") else packet.decode()
    root = etree.fromstring(text[text.index("<x:") : text.rindex("</x:") + len("</x:xmpmeta>")])
    graph = Graph().parse(data=etree.tostring(next(root.iter(RDF))), format="xml", publicID="urn:the:picture")
    for tag in OURS:
        for bag in graph.objects(None, URIRef(tag)):
            graph.remove((bag, None, None))
        graph.remove((None, URIRef(tag), None))
    return graph


@pytest.mark.parametrize(
    "made",
    [
        by_exiftool,
        by_exiv2,
        by_the_stand_in,
        lambda path: STRUCTURED.encode(),
        lambda path: STRUCTURED.encode("utf-16"),
    ],
    ids=["exiftool", "exiv2", "stand-in", "by hand", "UTF-16"],
)
def test_nothing_foreign_is_lost(made, tmp_path: Path) -> None:  # type: ignore[no-untyped-def]
    packet = made(tmp_path / "a.xmp")
    before = foreign(packet)
    assert len(before) >= 3
    written = xmp.write_marks(packet, to_xmp(MARKS))
    assert to_isomorphic(foreign(written)) == to_isomorphic(before)
    again = xmp.write_marks(written, to_xmp(Marks()))
    assert to_isomorphic(foreign(again)) == to_isomorphic(before)
    # And what we wrote stands there for others.
    (tmp_path / "b.xmp").write_bytes(written)
    told = subprocess.run(
        ["exiftool", "-s3", "-XMP-xmp:Rating", tmp_path / "b.xmp"], capture_output=True, text=True
    )
    assert told.stdout.strip() == "4"
