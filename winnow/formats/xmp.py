"""XMP packets: read the marks, change the marks, leave everything else as it was.

Source: ISO 16684-1 and the XMP Specification. A property may stand as an attribute or as an element
of any `rdf:Description`; both are read. Written ones are attributes, the shorter of the two forms.
"""

from __future__ import annotations

import codecs
import re
import threading
from functools import cached_property

from lxml import etree

from winnow.core.marks import WORD_FIELDS
from winnow.core.xmp_marks import XmpMarks
from winnow.formats import xmp_words
from winnow.formats.xmp_words import NS_DC, NS_PHOTOSHOP, NS_RDF

NS_X = "adobe:ns:meta/"
NS_XMP = "http://ns.adobe.com/xap/1.0/"
NS_TIFF = "http://ns.adobe.com/tiff/1.0/"
NS_WINNOW = "urn:winnow:xmp:1.0/"

RATING = f"{{{NS_XMP}}}Rating"
LABEL = f"{{{NS_XMP}}}Label"
DECISION = f"{{{NS_WINNOW}}}Decision"
STARS = f"{{{NS_WINNOW}}}Stars"
ORIENTATION = f"{{{NS_TIFF}}}Orientation"

MAX_PACKET = 16 * 1024 * 1024
_PREFIXES = {NS_XMP: "xmp", NS_WINNOW: "winnow"}

_OPEN = {
    # ISO 16684-1 and 16684-2, Exif for XMP (CIPA DC-010), IPTC Photo Metadata, PLUS, Creative Commons, MWG regions.
    "",
    NS_X,
    NS_RDF,
    NS_XMP,
    NS_WINNOW,
    "http://www.w3.org/XML/1998/namespace",
    NS_DC,
    "http://ns.adobe.com/xap/1.0/mm/",
    "http://ns.adobe.com/xap/1.0/rights/",
    "http://ns.adobe.com/xap/1.0/bj/",
    "http://ns.adobe.com/xap/1.0/t/pg/",
    "http://ns.adobe.com/xap/1.0/sType/ResourceEvent#",
    "http://ns.adobe.com/xap/1.0/sType/ResourceRef#",
    "http://ns.adobe.com/xmp/1.0/DynamicMedia/",
    "http://ns.adobe.com/xmp/sType/Area#",
    NS_PHOTOSHOP,
    NS_TIFF,
    "http://ns.adobe.com/exif/1.0/",
    "http://ns.adobe.com/exif/1.0/aux/",
    "http://cipa.jp/exif/1.0/",
    "http://iptc.org/std/Iptc4xmpCore/1.0/xmlns/",
    "http://iptc.org/std/Iptc4xmpExt/2008-02-29/",
    "http://ns.useplus.org/ldf/xmp/1.0/",
    "http://creativecommons.org/ns#",
    "http://www.metadataworkinggroup.com/schemas/regions/",
}
_FIGURE = re.compile(r"^\s*[+-]?\d+(\.\d+)?\s*$")

_EMPTY = (
    f'<x:xmpmeta xmlns:x="{NS_X}">\n <rdf:RDF xmlns:rdf="{NS_RDF}">\n'
    '  <rdf:Description rdf:about=""/>\n </rdf:RDF>\n</x:xmpmeta>\n'
)


class XmpError(ValueError):
    """A packet that cannot be read; the message says why and is meant for a person."""


class Packet:
    """A packet, parsed once, to be read and to be written with other marks. Raises XmpError if it cannot be read."""

    def __init__(self, data: bytes | None) -> None:
        whole = data and data.strip(b"\0 \t\r\n")
        self._root = _parse(data) if data and whole else etree.fromstring(_EMPTY)
        self._descriptions = _descriptions(self._root)

    @cached_property
    def marks(self) -> XmpMarks:
        """The marks in it."""
        return XmpMarks(
            rating=_whole(self._get(RATING)),
            label=self._get(LABEL),
            decision=self._get(DECISION),
            stars=_whole(self._get(STARS)),
            orientation=_whole(self._get(ORIENTATION)),
            **xmp_words.read(self._descriptions),
        )

    @property
    def has_settings(self) -> bool:
        """Whether an editing program keeps its settings in it: two figures or more under a namespace of its own. The
        open vocabularies describe a picture, they do not change it."""
        figures: dict[str, int] = {}
        for element in self._root.iter(etree.Element):
            named = [(element.tag, element.text if not len(element) else None), *element.attrib.items()]
            for tag, value in named:
                namespace = str(tag)[1:].partition("}")[0] if str(tag).startswith("{") else ""
                if value and namespace not in _OPEN and _FIGURE.match(str(value)):
                    figures[namespace] = figures.get(namespace, 0) + 1
        return any(count >= 2 for count in figures.values())

    def with_marks(self, marks: XmpMarks) -> bytes:
        """The packet with its marks replaced; this object is used up. Raises XmpError.

        All other properties, their order, the processing instructions around the packet and their
        contents are kept.
        """
        rdf = self._rdf()
        values: dict[str, str | None] = {
            RATING: None if marks.rating is None else str(marks.rating),
            LABEL: marks.label,
            DECISION: marks.decision,
            STARS: None if marks.stars is None else str(marks.stars),
        }
        prefixes = _PREFIXES
        if marks.orientation is not None:  # where nothing is to be said of it, what stands there stays
            values[ORIENTATION] = str(marks.orientation)
            prefixes = prefixes | {NS_TIFF: "tiff"}
        words = self._words_to_write(marks)
        if words:
            prefixes = prefixes | xmp_words.PREFIXES
        for tag in (*values, *(xmp_words.TAGS[name] for name in words)):
            self._remove(tag)
        description = _with_prefixes(self._first(rdf), prefixes)
        for tag, value in values.items():
            if value is None:
                continue
            try:
                description.set(tag, value)
            except ValueError:
                raise XmpError(
                    "A label with control characters cannot stand in XMP: change the label."
                ) from None
        xmp_words.write(description, words)
        return etree.tostring(self._root.getroottree(), encoding="utf-8")

    def with_property(self, tag: str, value: str, prefixes: dict[str, str]) -> bytes | None:
        """The packet with one more plain property, None where it has it already; this object is used up. Raises
        XmpError."""
        if self._get(tag) is not None:
            return None
        _with_prefixes(self._first(self._rdf()), prefixes).set(tag, value)
        return etree.tostring(self._root.getroottree(), encoding="utf-8")

    def _rdf(self) -> etree._Element:
        root = self._root
        rdf = root if root.tag == f"{{{NS_RDF}}}RDF" else root.find(f".//{{{NS_RDF}}}RDF")
        if rdf is None:
            raise XmpError("It holds XML, but no XMP (no rdf:RDF inside).")
        return rdf

    def _first(self, rdf: etree._Element) -> etree._Element:
        """The description that properties are written into."""
        if self._descriptions:
            return self._descriptions[0]
        description = etree.SubElement(rdf, f"{{{NS_RDF}}}Description")
        description.set(f"{{{NS_RDF}}}about", "")
        return description

    def _words_to_write(self, marks: XmpMarks) -> dict[str, str | None]:
        """The words that are not there already: a property that says the same stays as it is, to the letter."""
        there = xmp_words.read(self._descriptions)
        changed = {field.value: getattr(marks, field.value) for field in WORD_FIELDS}
        changed = {name: text for name, text in changed.items() if text != there[name]}
        if "copyright" in changed:
            changed["copyright"] = xmp_words.copyright_with(self._descriptions, changed["copyright"])
        return changed

    def _get(self, tag: str) -> str | None:
        for description in self._descriptions:
            value = description.get(tag)
            if value is None:
                element = description.find(tag)
                value = element.text if element is not None else None
            if value is not None:
                return str(value).strip()
        return None

    def _remove(self, tag: str) -> None:
        for description in self._descriptions:
            if tag in description.attrib:
                del description.attrib[tag]
            for element in description.findall(tag):
                description.remove(element)


def read_marks(packet: bytes) -> XmpMarks:
    """The marks in a packet. Raises XmpError, also for an empty one."""
    return Packet(not_empty(packet)).marks


def not_empty(packet: bytes) -> bytes:
    """The same packet. Raises XmpError if there is nothing in it."""
    if not packet.strip(b"\0 \t\r\n"):
        raise XmpError("It is empty.")
    return packet


def write_marks(packet: bytes | None, marks: XmpMarks) -> bytes:
    """`packet` with its marks replaced, or a new packet. Raises XmpError if it cannot be read."""
    return Packet(packet).with_marks(marks)


def find_packet(head: bytes) -> bytes | None:
    """The XMP packet somewhere inside the bytes of another file, for formats (RAW) whose own
    structure is not read. The standard asks for packets that can be found by scanning."""
    found = re.search(rb"<x:xmpmeta.*?</x:xmpmeta>", head, re.DOTALL)
    return found.group() if found else None


def _parse(packet: bytes) -> etree._Element:
    if len(packet) > MAX_PACKET:
        raise XmpError(f"It is larger than {MAX_PACKET // 2**20} MB.")
    packet = _as_utf8(packet).strip(b"\0 \t\r\n")
    _demand_bounded(packet)
    try:
        root = etree.fromstring(packet, _parser())
    except (etree.XMLSyntaxError, ValueError) as error:
        raise XmpError(f"It is not well-formed XML ({error}).") from None
    if root.getroottree().docinfo.internalDTD is not None:
        raise XmpError("It declares XML entities, which XMP does not allow.")
    return root


MOST_PROPERTIES = 100_000
"""Elements and attributes. A development with many masks has some thousands."""
_TAG = re.compile(rb"<[A-Za-z_]|=\s*[\"']")


def _demand_bounded(packet: bytes) -> None:
    """Refuse a packet that takes far more memory than its size says: a parsed attribute takes some 200 bytes. Text
    that looks like markup counts too, so this is an upper bound. Raises XmpError."""
    if len(packet) > 3 * MOST_PROPERTIES and sum(1 for _ in _TAG.finditer(packet)) > MOST_PROPERTIES:
        raise XmpError(f"It has more than {MOST_PROPERTIES:,} properties.")


_local = threading.local()


def _parser() -> etree.XMLParser:
    """One a thread: making one costs as much as parsing a sidecar."""
    found: etree.XMLParser | None = getattr(_local, "parser", None)
    if found is None:
        found = _local.parser = etree.XMLParser(
            resolve_entities=False, no_network=True, load_dtd=False, huge_tree=False
        )
    return found


_ENCODINGS = (
    # A byte order mark, or a '<' of that width. The longer ones come first: their marks begin alike.
    ("utf-32-le", (codecs.BOM_UTF32_LE, "<".encode("utf-32-le"))),
    ("utf-32-be", (codecs.BOM_UTF32_BE, "<".encode("utf-32-be"))),
    ("utf-16-le", (codecs.BOM_UTF16_LE, "<".encode("utf-16-le"))),
    ("utf-16-be", (codecs.BOM_UTF16_BE, "<".encode("utf-16-be"))),
)


def _as_utf8(packet: bytes) -> bytes:
    """A packet in any of the encodings that XMP allows (ISO 16684-1, 7.3), as UTF-8. Raises XmpError."""
    for encoding, starts in _ENCODINGS:
        if packet.startswith(starts):
            try:
                text = packet.decode(encoding).lstrip("\ufeff").rstrip("\0")
            except UnicodeDecodeError:
                raise XmpError(f"It is damaged {encoding[:6].upper()} text.") from None
            return re.sub(r"^(<\?xml[^>]*?)\s+encoding=([\"\']).*?\2", r"\1", text).encode("utf-8")
    return packet.removeprefix(codecs.BOM_UTF8)


def _descriptions(root: etree._Element) -> list[etree._Element]:
    """Those of the picture; deeper down they are values of structured properties."""
    blocks = [root] if root.tag == f"{{{NS_RDF}}}RDF" else root.iter(f"{{{NS_RDF}}}RDF")
    return [description for rdf in blocks for description in rdf.findall(f"{{{NS_RDF}}}Description")]


def _with_prefixes(description: etree._Element, prefixes: dict[str, str]) -> etree._Element:
    """The description with our namespaces declared under readable prefixes.

    lxml cannot add a declaration to an element, so a new one takes its place and its children.
    """
    missing = {p: ns for ns, p in prefixes.items() if ns not in description.nsmap.values()}
    missing = {p: ns for p, ns in missing.items() if p not in description.nsmap}
    parent = description.getparent()
    if not missing or parent is None:
        return description
    fresh = etree.Element(description.tag, nsmap=description.nsmap | missing)  # type: ignore[arg-type]
    for key, value in description.attrib.items():
        fresh.set(key, value)
    fresh.text, fresh.tail = description.text, description.tail
    fresh.extend(list(description))
    parent.replace(description, fresh)
    return fresh


def _whole(text: str | None) -> int | None:
    try:
        return None if text is None else int(float(text))
    except (ValueError, OverflowError):
        return None
