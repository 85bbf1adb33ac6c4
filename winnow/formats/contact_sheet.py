"""Contact sheets: pages of pictures with their numbers, names and marks, as PDF (ISO 32000, by ReportLab)."""

from __future__ import annotations

import io
from dataclasses import dataclass
from pathlib import Path

from PIL import Image
from reportlab.lib.pagesizes import A4, letter
from reportlab.lib.units import mm
from reportlab.lib.utils import ImageReader
from reportlab.pdfgen.canvas import Canvas

PAPERS = {"a4": A4, "letter": letter}
MARGIN, GAP, CAPTION, HEAD = 12 * mm, 4 * mm, 8.5 * mm, 10 * mm
DPI = 220
"""Common practice, no source: small pictures on paper are looked at closely."""
QUALITY = 85


@dataclass(frozen=True, slots=True)
class SheetPicture:
    """A picture on a sheet. path: of its preview; turn: quarters clockwise; marks: in words, as `kept · 3 stars`."""

    number: int
    name: str
    path: str
    turn: int
    marks: str


@dataclass(frozen=True, slots=True)
class Sheet:
    """What is wanted: columns and rows a page; title at the top of each; names, marks: told under each picture."""

    title: str
    columns: int
    rows: int
    paper: str
    names: bool
    marks: bool
    pictures: tuple[SheetPicture, ...]


def contact_sheet(sheet: Sheet) -> bytes:
    """The PDF. A task of a worker process. A picture whose preview cannot be read leaves its place empty, with its
    number and name."""
    out = io.BytesIO()
    width, height = PAPERS[sheet.paper]
    canvas = Canvas(out, pagesize=(width, height), pageCompression=1, invariant=1)
    canvas.setTitle(sheet.title)
    canvas.setCreator("Winnow")
    cell = ((width - 2 * MARGIN + GAP) / sheet.columns, (height - 2 * MARGIN - HEAD + GAP) / sheet.rows)
    per_page = sheet.columns * sheet.rows
    pages = max(1, -(-len(sheet.pictures) // per_page))
    for page in range(pages):
        canvas.setFont("Helvetica-Bold", 11)
        canvas.drawString(MARGIN, height - MARGIN - 8, _plain(sheet.title))
        canvas.setFont("Helvetica", 9)
        canvas.drawRightString(width - MARGIN, height - MARGIN - 8, f"{page + 1} / {pages}")
        for place, one in enumerate(sheet.pictures[page * per_page : (page + 1) * per_page]):
            row, column = divmod(place, sheet.columns)
            left = MARGIN + column * cell[0]
            top = height - MARGIN - HEAD - row * cell[1]
            _draw(canvas, sheet, one, (left, top), (cell[0] - GAP, cell[1] - GAP - CAPTION))
        canvas.showPage()
    canvas.save()
    return out.getvalue()


def _draw(
    canvas: Canvas, sheet: Sheet, one: SheetPicture, corner: tuple[float, float], size: tuple[float, float]
) -> None:
    """A picture as large as fits, standing on its caption. corner: upper left; both in points."""
    (left, top), (width, height) = corner, size
    try:
        picture = _small(one, (width, height))
    except (OSError, ValueError, SyntaxError):
        canvas.rect(left, top - height, width, height)
    else:
        scale = min(width / picture.width, height / picture.height)
        wide, high = picture.width * scale, picture.height * scale
        jpeg = io.BytesIO()
        picture.save(jpeg, "JPEG", quality=QUALITY)
        jpeg.seek(0)
        canvas.drawImage(ImageReader(jpeg), left + (width - wide) / 2, top - height, wide, high)
    named = f"{one.number}  {one.name}" if sheet.names else str(one.number)
    for line, (font, text) in enumerate(
        (("Helvetica-Bold", named), ("Helvetica", one.marks if sheet.marks else ""))
    ):
        canvas.setFont(font, 8)
        canvas.drawString(left, top - height - 9 - 9 * line, _fitting(canvas, font, _plain(text), width))


def _small(one: SheetPicture, size: tuple[float, float]) -> Image.Image:
    with Image.open(Path(one.path)) as picture:
        edge = int(max(size) / 72 * DPI)
        picture.draft("RGB", (edge, edge))
        upright = picture.convert("RGB")
    if one.turn:
        upright = upright.rotate(-90 * one.turn, expand=True)
    upright.thumbnail((edge, edge))
    return upright


def _plain(text: str) -> str:
    """What the standard fonts of PDF can show (Windows-1252)."""
    return text.encode("cp1252", "replace").decode("cp1252")


def _fitting(canvas: Canvas, font: str, text: str, width: float) -> str:
    while text and canvas.stringWidth(text, font, 8) > width:
        text = text[:-2] + "…" if len(text) > 2 else ""
    return text
