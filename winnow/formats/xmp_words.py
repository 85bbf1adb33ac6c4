"""Words in XMP packets: properties with languages, lists and plain texts.

Source: IPTC Photo Metadata Standard (Description, Keywords, Creator, Copyright Notice: `dc:`; Headline:
`photoshop:`); ISO 16684-1 for the forms: a language alternative is an `rdf:Alt` whose items say `xml:lang`, a list an
`rdf:Bag` or `rdf:Seq`. What stands there in another form (a plain text for a list) is read all the same.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping

from lxml import etree

from winnow.core.words import DEFAULT, languages_form, languages_of, list_form, list_of, text_form

NS_RDF = "http://www.w3.org/1999/02/22-rdf-syntax-ns#"
NS_DC = "http://purl.org/dc/elements/1.1/"
NS_PHOTOSHOP = "http://ns.adobe.com/photoshop/1.0/"
PREFIXES = {NS_DC: "dc", NS_PHOTOSHOP: "photoshop"}

CAPTION = f"{{{NS_DC}}}description"
HEADLINE = f"{{{NS_PHOTOSHOP}}}Headline"
KEYWORDS = f"{{{NS_DC}}}subject"
CREATOR = f"{{{NS_DC}}}creator"
COPYRIGHT = f"{{{NS_DC}}}rights"

TAGS = {
    "caption": CAPTION,
    "headline": HEADLINE,
    "keywords": KEYWORDS,
    "creator": CREATOR,
    "copyright": COPYRIGHT,
}

_LANG = "{http://www.w3.org/XML/1998/namespace}lang"
_LI = f"{{{NS_RDF}}}li"
_VALUE = f"{{{NS_RDF}}}value"


def read(descriptions: Iterable[etree._Element]) -> dict[str, str | None]:
    """The words of a picture, by name of the field, as marks hold them."""
    blocks = list(descriptions)
    rights = _alternatives(blocks, COPYRIGHT)
    return {
        "caption": languages_form(_alternatives(blocks, CAPTION)),
        "headline": text_form(_text(blocks, HEADLINE)),
        "keywords": list_form(_items(blocks, KEYWORDS)),
        "creator": list_form(_items(blocks, CREATOR)),
        "copyright": text_form(rights.get(DEFAULT) or next(iter(rights.values()), None)),
    }


def write(description: etree._Element, wanted: Mapping[str, str | None]) -> None:
    """Puts properties into a block that has none of them. wanted: by name of the field, as marks hold them, a
    copyright by language; None and what is not named: none."""
    if text := wanted.get("headline"):
        description.set(HEADLINE, text)
    for name, tag in (("caption", CAPTION), ("copyright", COPYRIGHT)):
        if texts := languages_of(wanted.get(name)):
            box = _box(description, tag, "Alt")
            for language, text in texts.items():
                item = etree.SubElement(box, _LI)
                item.set(_LANG, language)
                item.text = text
    for name, tag, kind in (("keywords", KEYWORDS, "Bag"), ("creator", CREATOR, "Seq")):
        if items := list_of(wanted.get(name)):
            box = _box(description, tag, kind)
            for text in items:
                etree.SubElement(box, _LI).text = text


def copyright_with(descriptions: Iterable[etree._Element], text: str | None) -> str | None:
    """The copyright by language with another text where no language is named; those in other languages stay, but
    none stays without it."""
    if text is None:
        return None
    return languages_form({**_alternatives(list(descriptions), COPYRIGHT), DEFAULT: text})


def _box(description: etree._Element, tag: str, kind: str) -> etree._Element:
    return etree.SubElement(etree.SubElement(description, tag), f"{{{NS_RDF}}}{kind}")


def _text(blocks: list[etree._Element], tag: str) -> str | None:
    for block in blocks:
        if tag in block.attrib:
            return str(block.get(tag))
        for element in block.findall(tag):
            items = element.findall(f"*/{_LI}")
            return _said(items[0]) if items else _said(element)
    return None


def _items(blocks: list[etree._Element], tag: str) -> list[str]:
    for block in blocks:
        for element in block.findall(tag):
            items = element.findall(f"*/{_LI}")
            return [_said(item) for item in items] if items else [_said(element)]
    text = _text(blocks, tag)
    return [text] if text else []


def _alternatives(blocks: list[etree._Element], tag: str) -> dict[str, str]:
    for block in blocks:
        for element in block.findall(tag):
            items = element.findall(f"*/{_LI}")
            if items:
                found: dict[str, str] = {}
                for item in items:
                    found.setdefault(item.get(_LANG, DEFAULT), _said(item))
                return found
    text = _text(blocks, tag)
    return {DEFAULT: text} if text else {}


def _said(element: etree._Element) -> str:
    """The text of a value, which may stand below qualifiers."""
    value = element.find(f".//{_VALUE}")
    return str((element if value is None else value).text or "")
