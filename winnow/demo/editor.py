"""A simulated editing program: is handed files, notes them, changes their sidecars, saves a picture and ends.

By hand: `python -m winnow.demo.editor --log LOG --derive FILE…`. It writes XMP with the standard library, by
other code and in another form than Winnow does (elements, own prefixes), as a stranger would.
"""

from __future__ import annotations

import xml.etree.ElementTree as ET
from pathlib import Path
from typing import Annotated

import typer
from PIL import Image, ImageOps

RDF = "http://www.w3.org/1999/02/22-rdf-syntax-ns#"
XMP = "http://ns.adobe.com/xap/1.0/"
META = "adobe:ns:meta/"
SETTINGS = "urn:made-up-editor:settings:7/"

EDITS: tuple[tuple[int, str | None], ...] = ((5, "Retouch"), (4, None), (-1, None), (3, "Publish"))
"""(xmp:Rating, xmp:Label) that the files get, in turn."""

# Readers know a packet by the usual prefixes `x` and `rdf`; the others are free.
for _prefix, _namespace in (("rdf", RDF), ("core", XMP), ("x", META), ("edit", SETTINGS)):
    ET.register_namespace(_prefix, _namespace)


def edit(files: list[Path], log: Path | None = None, *, derive: bool = False) -> None:
    """Rates, labels and 'develops' every file, in its sidecar NAME.xmp. derive: saves NAME-edit.tif beside it, warmer
    and half as large."""
    for number, file in enumerate(files):
        if log is not None:
            with log.open("a") as out:
                out.write(f"{file}\n")
        rating, label = EDITS[number % len(EDITS)]
        sidecar = file.with_suffix(".xmp")
        root = ET.fromstring(sidecar.read_bytes()) if sidecar.exists() else _empty()
        descriptions = list(root.iter(f"{{{RDF}}}Description"))
        values = {
            f"{{{XMP}}}Rating": str(rating),
            f"{{{XMP}}}Label": label,
            f"{{{SETTINGS}}}Exposure": f"{number / 4:+.2f}",
            f"{{{SETTINGS}}}Version": "7",
        }
        for tag, value in values.items():
            _set(descriptions, tag, value)
        sidecar.write_bytes(ET.tostring(root, encoding="utf-8"))
        if derive:
            _derive(file)


def _derive(file: Path) -> None:
    with Image.open(file) as picture:
        small = ImageOps.exif_transpose(picture).convert("RGB").reduce(2)
    red, green, blue = small.split()
    warm = Image.merge(
        "RGB", (red.point(lambda v: min(255, v * 9 // 8)), green, blue.point(lambda v: v * 7 // 8))
    )
    partial = file.with_name(f".{file.stem}-edit.part")
    warm.save(partial, "TIFF", compression="tiff_adobe_deflate")
    partial.rename(file.with_name(f"{file.stem}-edit.tif"))


def _empty() -> ET.Element:
    root = ET.Element(f"{{{META}}}xmpmeta")
    ET.SubElement(ET.SubElement(root, f"{{{RDF}}}RDF"), f"{{{RDF}}}Description", {f"{{{RDF}}}about": ""})
    return root


def _set(descriptions: list[ET.Element], tag: str, value: str | None) -> None:
    for description in descriptions:
        description.attrib.pop(tag, None)
        for old in description.findall(tag):
            description.remove(old)
    if value is not None:
        ET.SubElement(descriptions[0], tag).text = value


def main(
    files: list[Path],
    log: Annotated[Path | None, typer.Option()] = None,
    derive: Annotated[bool, typer.Option()] = False,
) -> None:
    """Edit files the way another program would."""
    edit(files, log, derive=derive)


if __name__ == "__main__":
    typer.run(main)
