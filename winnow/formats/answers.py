"""Answers of clients as files: JSON of a proof set's page, a table (RFC 4180), or plain text."""

from __future__ import annotations

import csv
import io
import json
from dataclasses import dataclass
from typing import Any

from winnow.core.answer import Given, Verdict
from winnow.formats.lists import unharmed

FORMAT = "winnow-answer"
_VERDICTS = {
    **dict.fromkeys(("like", "liked", "yes", "y", "1", "x", "true", "keep", "♥"), Verdict.LIKE),
    **dict.fromkeys(("no", "n", "0", "not", "false", "reject"), Verdict.NO),
}


@dataclass(frozen=True, slots=True)
class AnswerFile:
    """given: its lines, None where it is plain text; proof, client: as it says, empty where it does not."""

    given: list[Given] | None
    proof: str = ""
    client: str = ""


def read_file(text: str) -> AnswerFile:
    """What a file or a pasted text is, by what stands in it. Never raises."""
    stripped = text.lstrip("\ufeff \r\n\t")
    if stripped.startswith("{"):
        try:
            held = json.loads(stripped)
        except (ValueError, RecursionError):
            held = None
        if isinstance(held, dict) and held.get("format") == FORMAT and isinstance(held.get("answers"), list):
            lines = [one for one in map(_line, held["answers"]) if one is not None]
            return AnswerFile(lines, _text(held.get("set")), _text(held.get("client")))
    table = _table(stripped)
    return AnswerFile(table) if table is not None else AnswerFile(None)


def _table(text: str) -> list[Given] | None:
    """Of a table whose first line names its columns; None if it is none."""
    first = text.partition("\n")[0].casefold()
    separator = ";" if first.count(";") > first.count(",") else ","
    columns = [name.strip().strip('"') for name in first.split(separator)]
    if "verdict" not in columns or not {"number", "name"} & set(columns):
        return None
    try:
        rows = list(csv.reader(io.StringIO(text, newline=""), delimiter=separator))[1:]
    except csv.Error:
        return None
    named = [
        dict(zip(columns, map(unharmed, row), strict=False))
        for row in rows
        if any(cell.strip() for cell in row)
    ]
    return [one for one in map(_line, named) if one is not None]


def _line(held: Any) -> Given | None:
    if not isinstance(held, dict):
        return None
    number = _text(held.get("number")).strip().lstrip("#")
    name = _text(held.get("name")).strip()
    verdict = _VERDICTS.get(_text(held.get("verdict")).strip().casefold(), Verdict.NONE)
    comment = _text(held.get("comment")).strip()
    if not (number.isascii() and number.isdigit() and len(number) < 10):
        number = ""
    if not (number or name) or (verdict is Verdict.NONE and not comment):
        return None
    return Given(int(number) if number else None, name[:300], verdict, comment[:2000])


def _text(value: Any) -> str:
    return "" if value is None or isinstance(value, (dict, list)) else str(value)
