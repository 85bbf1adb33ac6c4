"""Lists: the cases of RFC 4180, and what stands in them."""

from __future__ import annotations

import csv
import io
import json
from typing import Any

import pytest

from winnow.core.labels import FIRST
from winnow.core.lists import BY_ID, COLUMNS, columns_of, table
from winnow.formats.answers import read_file
from winnow.formats.lists import Form, unharmed, written

FRAME: dict[str, Any] = {
    **dict.fromkeys((column.id for column in COLUMNS), None),
    "name": 'a/One, "two".JPG',
    "scene": 0,
    "frame_group": 4,
    "lead": 1,
    "decision": "keep",
    "rating": 3,
    "label": "Retouch",
    "warnings": "soft eyes",
    "shutter_s": 0.002,
    "caption": json.dumps({"x-default": "One line\nand another", "de": "Eine"}),
    "keywords": json.dumps(["kiln", "glaze"]),
}


def test_cells_are_quoted_as_the_rfc_says() -> None:
    """RFC 4180, section 2: lines end with CRLF; commas, quotes, line breaks stand in quotes, quotes are doubled."""
    columns = columns_of(["name", "caption", "rating", "iso"])
    text = written(Form.CSV, columns, table([FRAME], columns, FIRST))
    assert text == 'File,Caption,Rating,ISO\r\n"a/One, ""two"".JPG","One line\nand another",3,\r\n'
    read = list(csv.reader(io.StringIO(text, newline="")))
    assert read[1] == ['a/One, "two".JPG', "One line\nand another", "3", ""]


def test_what_stands_in_columns() -> None:
    columns = columns_of([*BY_ID])
    cells = dict(zip(BY_ID, table([FRAME], columns, FIRST)[0], strict=True))
    assert (cells["scene"], cells["group"], cells["lead"]) == (1, 5, "yes")
    assert (cells["decision"], cells["label"], cells["warnings"]) == ("kept", "Retouch", "soft, eyes closed")
    assert (cells["caption"], cells["keywords"]) == ("One line\nand another", "kiln; glaze")
    assert json.loads(written(Form.JSON, columns, [list(cells.values())])) == [cells]
    assert written(Form.NAMES, columns, [list(cells.values())]) == 'a/One, "two".JPG\n'


def test_a_column_that_there_is_not() -> None:
    with pytest.raises(ValueError, match="no column 'colour'"):
        columns_of(["name", "colour"])
    assert [one.id for one in columns_of(["iso", "name", "iso"])] == ["iso", "name"]


@pytest.mark.parametrize("text", ["=1+1", "+1", "-2", "@SUM(A1)", "\t=1", "plain", "a=b", "'quoted"])
def test_no_cell_is_a_formula_to_a_spreadsheet(text: str) -> None:
    """OWASP, CSV Injection: cells that begin with = + - @, a tab or a carriage return; and back, in an answer."""
    (_, row) = csv.reader(io.StringIO(written(Form.CSV, [BY_ID["caption"]], [[text]]), newline=""))
    assert not row[0].startswith(("=", "+", "-", "@", "\t", "\r"))
    assert unharmed(row[0]) == text
    (given,) = read_file(f"name,verdict\r\n{row[0]},like").given or []
    assert given.name == text.strip()
