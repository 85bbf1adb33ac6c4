"""XMP against two independent programs: exiftool and exiv2 (Debian packages)."""

from __future__ import annotations

import json
import subprocess
from dataclasses import replace
from pathlib import Path

import pytest
from lxml import etree

from winnow.core.marks import Decision, Marks
from winnow.core.words import languages_form, list_form, list_of
from winnow.core.xmp_marks import from_xmp, to_xmp
from winnow.formats import xmp

# What an editing program might leave: other namespaces, settings, structures, a label of its own.
FOREIGN = b"""<?xpacket begin="\xef\xbb\xbf" id="W5M0MpCehiHzreSzNTczkc9d"?>
<x:xmpmeta xmlns:x="adobe:ns:meta/" x:xmptk="Somebody 1.0">
 <rdf:RDF xmlns:rdf="http://www.w3.org/1999/02/22-rdf-syntax-ns#">
  <rdf:Description rdf:about="" xmlns:xmp="http://ns.adobe.com/xap/1.0/"
    xmlns:dev="urn:example:development/" xmp:CreateDate="2026-10-17T16:00:00"
    dev:Exposure="+0.75" xmp:Label="Old" >
   <dc:subject xmlns:dc="http://purl.org/dc/elements/1.1/"><rdf:Bag><rdf:li>kiln</rdf:li>
    <rdf:li>\xc3\xa9mail</rdf:li></rdf:Bag></dc:subject>
   <dev:Curve><rdf:Seq><rdf:li>0, 0</rdf:li><rdf:li>255, 250</rdf:li></rdf:Seq></dev:Curve>
   <xmp:Rating>2</xmp:Rating>
  </rdf:Description>
 </rdf:RDF>
</x:xmpmeta>
<?xpacket end="w"?>"""

MARKS = [
    Marks(Decision.KEEP, 4, "Retouch"),
    Marks(Decision.REJECT, 3),
    Marks(Decision.REJECT, 0, "Zu dunkel – prüfen"),
    Marks(rating=5),
    Marks(),
]


def exiftool(path: Path, *arguments: str) -> dict[str, object]:
    run = subprocess.run(["exiftool", "-j", "-n", "-G1", *arguments, path], check=True, capture_output=True)
    found: dict[str, object] = json.loads(run.stdout)[0]
    return found


def exiv2(path: Path) -> dict[str, str]:
    run = subprocess.run(["exiv2", "-PXkv", path], capture_output=True, text=True, check=False)
    return dict(line.split(maxsplit=1) for line in run.stdout.splitlines() if " " in line)


@pytest.mark.parametrize("marks", MARKS)
def test_what_we_write_is_read_by_others(tmp_path: Path, marks: Marks) -> None:
    path = tmp_path / "a.xmp"
    path.write_bytes(xmp.write_marks(None, to_xmp(marks)))
    rating = -1 if marks.decision is Decision.REJECT else marks.rating
    seen = exiftool(path)
    assert seen["XMP-xmp:Rating"] == rating
    assert seen.get("XMP-xmp:Label") == marks.label
    seen_too = exiv2(path)
    assert seen_too["Xmp.xmp.Rating"] == str(rating)
    assert seen_too.get("Xmp.xmp.Label") == marks.label


@pytest.mark.parametrize("marks", MARKS)
def test_foreign_properties_survive_for_both_readers(tmp_path: Path, marks: Marks) -> None:
    before, after = tmp_path / "before.xmp", tmp_path / "after.xmp"
    before.write_bytes(FOREIGN)
    marks = replace(marks, keywords=from_xmp(xmp.read_marks(FOREIGN)).keywords)
    after.write_bytes(xmp.write_marks(FOREIGN, to_xmp(marks)))
    ours = {"XMP-xmp:Rating", "XMP-xmp:Label", "XMP-winnow:Decision", "XMP-winnow:Stars"}
    per_file = ("SourceFile", "System:", "File:", "ExifTool:")

    def rest(path: Path) -> dict[str, object]:
        found = exiftool(path)
        return {k: v for k, v in found.items() if k not in ours and not k.startswith(per_file)}

    assert rest(after) == rest(before)
    kept = {k: v for k, v in exiv2(before).items() if k not in ("Xmp.xmp.Rating", "Xmp.xmp.Label")}
    assert kept.items() <= exiv2(after).items()
    assert from_xmp(xmp.read_marks(after.read_bytes())) == marks
    assert after.read_bytes().startswith(b"<?xpacket begin")


@pytest.mark.parametrize("rating", [-1, 0, 3])
def test_what_exiftool_writes_is_read(tmp_path: Path, rating: int) -> None:
    path = tmp_path / "a.xmp"
    subprocess.run(
        ["exiftool", "-q", "-o", path, f"-XMP-xmp:Rating={rating}", "-XMP-xmp:Label=Publish"], check=True
    )
    found = xmp.read_marks(path.read_bytes())
    assert (found.rating, found.label) == (rating, "Publish")


@pytest.mark.parametrize("rating", [-1, 4])
def test_what_exiv2_writes_is_read(tmp_path: Path, rating: int) -> None:
    path = tmp_path / "a.xmp"
    path.write_bytes(xmp.write_marks(None, to_xmp(Marks())))
    subprocess.run(["exiv2", f"-Mset Xmp.xmp.Rating {rating}", "-Mset Xmp.xmp.Label Album", path], check=True)
    found = xmp.read_marks(path.read_bytes())
    assert (found.rating, found.label) == (rating, "Album")


def test_entities_are_refused_and_never_read(tmp_path: Path) -> None:
    secret = tmp_path / "secret"
    secret.write_text("do not tell")
    trick = (
        f'<!DOCTYPE x [<!ENTITY leak SYSTEM "file://{secret}">]>'
        '<x:xmpmeta xmlns:x="adobe:ns:meta/"><rdf:RDF '
        'xmlns:rdf="http://www.w3.org/1999/02/22-rdf-syntax-ns#"><rdf:Description '
        'xmlns:xmp="http://ns.adobe.com/xap/1.0/"><xmp:Label>&leak;</xmp:Label>'
        "</rdf:Description></rdf:RDF></x:xmpmeta>"
    ).encode()
    with pytest.raises(xmp.XmpError, match="entities"):
        xmp.read_marks(trick)
    bomb = b"<!DOCTYPE b [<!ENTITY a 'aaaaaaaaaa'>" + b"".join(
        b"<!ENTITY %c '%s'>" % (98 + n, b"&%c;" % (97 + n) * 10) for n in range(8)
    )
    with pytest.raises(xmp.XmpError):
        xmp.read_marks(bomb + b"]><x>&i;</x>")


@pytest.mark.parametrize("packet", [b"", b"not xml", b"<a/>", b"\xff\xfe\x00", b"<x" * 1000])
def test_broken_packets_give_a_message(packet: bytes) -> None:
    try:
        found = xmp.read_marks(packet)
    except xmp.XmpError as error:
        assert str(error)
    else:
        assert found.rating is None


def test_writing_is_stable() -> None:
    once = xmp.write_marks(FOREIGN, to_xmp(MARKS[0]))
    assert xmp.write_marks(once, to_xmp(MARKS[0])) == once
    etree.fromstring(once)


CAPTION = {"x-default": 'Zoë\'s "<one> & all"', "de": "Boote, am Kai"}
KEYWORDS = ['<one> & "Zoë"', "boats, small", "Kai; alt"]
CREATORS = ["Íde Ní Bhriain", "Zoë O'Shea"]
HEADLINE, COPYRIGHT = "Boats & <planks>", "© 2026 Íde Ní Bhriain"
IN_MARKS: dict[str, str | None] = {
    "caption": languages_form(CAPTION),
    "keywords": list_form(KEYWORDS),
    "creator": list_form(CREATORS),
    "headline": HEADLINE,
    "copyright": COPYRIGHT,
}


def test_words_that_we_write_are_read_by_others(tmp_path: Path) -> None:
    path = tmp_path / "a.xmp"
    path.write_bytes(xmp.write_marks(None, to_xmp(Marks(**IN_MARKS))))  # type: ignore[arg-type]
    seen = exiftool(path)
    assert seen["XMP-dc:Description"] == CAPTION["x-default"]
    assert seen["XMP-dc:Description-de"] == CAPTION["de"]
    assert (seen["XMP-dc:Subject"], seen["XMP-dc:Creator"]) == (KEYWORDS, CREATORS)
    assert seen["XMP-photoshop:Headline"] == HEADLINE
    assert seen["XMP-dc:Rights"] == COPYRIGHT
    run = subprocess.run(["exiv2", "-PXkt", path], capture_output=True, text=True, check=True).stdout
    assert 'lang="x-default" Zoë\'s "<one> & all", lang="de" Boote, am Kai' in run
    assert '<one> & "Zoë", boats, small, Kai; alt' in run


def test_words_that_others_write_are_read_by_us(tmp_path: Path) -> None:
    by_exiftool, by_exiv2 = tmp_path / "a.xmp", tmp_path / "b.xmp"
    said = ["-XMP-dc:Description-x-default=" + CAPTION["x-default"]]
    said += ["-XMP-dc:Description-de=" + CAPTION["de"]]
    said += [f"-XMP-dc:Subject={one}" for one in KEYWORDS]
    said += [f"-XMP-dc:Creator={one}" for one in CREATORS]
    said += [f"-XMP-photoshop:Headline={HEADLINE}", f"-XMP-dc:Rights={COPYRIGHT}"]
    subprocess.run(["exiftool", "-q", *said, by_exiftool], check=True)
    by_exiv2.write_bytes(FOREIGN)
    commands = [f"set Xmp.dc.subject {one}" for one in ("XmpBag " + KEYWORDS[0], *KEYWORDS[1:])]
    commands += [f"set Xmp.dc.description lang={language} {text}" for language, text in CAPTION.items()]
    commands += [f"set Xmp.dc.creator {one}" for one in ("XmpSeq " + CREATORS[0], *CREATORS[1:])]
    commands += [f"set Xmp.photoshop.Headline {HEADLINE}", f"set Xmp.dc.rights {COPYRIGHT}"]
    (tmp_path / "c").write_text("del Xmp.dc.subject\n" + "\n".join(commands) + "\n", "utf-8")
    subprocess.run(["exiv2", "-m", tmp_path / "c", by_exiv2], check=True)
    for path in (by_exiftool, by_exiv2):
        read = from_xmp(xmp.read_marks(path.read_bytes()))
        assert {name: getattr(read, name) for name in IN_MARKS} == IN_MARKS, path.name


def test_words_that_did_not_change_stay_to_the_letter() -> None:
    """Also where they stand in another form than the standard asks for, or with qualifiers."""
    headline = b"<p:Headline xmlns:p='http://ns.adobe.com/photoshop/1.0/'> a  b </p:Headline>"
    odd = FOREIGN.replace(b"<dev:Curve>", headline + b"<dev:Curve>")
    read = from_xmp(xmp.read_marks(odd))
    assert (read.headline, list_of(read.keywords)) == ("a  b", ["kiln", "émail"])
    after = xmp.write_marks(odd, to_xmp(replace(read, rating=5)))
    assert b"> a  b </p:Headline>" in after and b"<rdf:li>kiln</rdf:li>\n    <rdf:li>" in after
    again = from_xmp(
        xmp.read_marks(xmp.write_marks(after, to_xmp(replace(read, keywords=None, caption=None))))
    )
    assert again.keywords is None and again.headline == "a  b"
