"""Lists of frames as files: CSV, JSON, names.

Source: RFC 4180, Common Format and MIME Type for Comma-Separated Values (CSV) Files.
"""

from __future__ import annotations

import csv
import io
import json
from collections.abc import Sequence
from enum import StrEnum

from winnow.core.lists import Cell, Column

FORMULA_STARTS = ("=", "+", "-", "@", "\t", "\r")


class Form(StrEnum):
    CSV = "csv"
    JSON = "json"
    NAMES = "names"


MEDIA_TYPES = {Form.CSV: "text/csv", Form.JSON: "application/json", Form.NAMES: "text/plain"}
ENDINGS = {Form.CSV: "csv", Form.JSON: "json", Form.NAMES: "txt"}


def written(form: Form, columns: Sequence[Column], rows: Sequence[Sequence[Cell]]) -> str:
    """A list as a file holds it. Of `NAMES` the first column stands alone, one a line."""
    if form is Form.JSON:
        frames = [{column.id: cell for column, cell in zip(columns, row, strict=True)} for row in rows]
        return json.dumps(frames, ensure_ascii=False, indent=1) + "\n"
    if form is Form.NAMES:
        return "".join(f"{row[0]}\n" for row in rows)
    # Lines end as the RFC says; what is not known is an empty cell.
    text = io.StringIO(newline="")
    writer = csv.writer(text, lineterminator="\r\n")
    writer.writerow([column.title for column in columns])
    writer.writerows([["" if cell is None else harmless(cell) for cell in row] for row in rows])
    return text.getvalue()


def harmless(cell: str | int | float) -> str | int | float:
    """Put an apostrophe before text that a spreadsheet would run as a formula (OWASP, *CSV Injection*)."""
    return f"'{cell}" if isinstance(cell, str) and cell.startswith(FORMULA_STARTS) else cell


def unharmed(cell: str) -> str:
    """Undo `harmless`."""
    return cell[1:] if cell[:1] == "'" and cell[1:].startswith(FORMULA_STARTS) else cell
