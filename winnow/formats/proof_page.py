"""The page of a proof set: one file of HTML that works from a stick, with no server and nothing from elsewhere."""

from __future__ import annotations

import html
import json
from collections.abc import Sequence
from importlib import resources

from winnow.core.pairing import split_name
from winnow.core.proof import Proof, Shown, file_of

LARGE, SMALL = "pictures", "small"
"""Folders beside the page."""


def page(proof: Proof, pictures: Sequence[Shown]) -> bytes:
    """The page. Pictures are looked for in the folders beside it."""
    data = {
        "id": proof.id,
        "title": proof.title,
        "pictures": [
            {
                "number": one.number,
                "name": split_name(one.name.rpartition("/")[2])[0] if proof.names else "",
                "file": file_of(one.number),
                "width": one.width or 3,
                "height": one.height or 2,
            }
            for one in pictures
        ],
    }
    text = (resources.files("winnow.formats") / "proof_page.html").read_text("utf-8")
    filled = {
        "TITLE": html.escape(proof.title),
        "NOTE": _lines(proof.note),
        "CONTACT": _lines(proof.contact),
        "EXPIRES": _lines(proof.expires),
        # Within a script element only '<' can do harm.
        "DATA": json.dumps(data, ensure_ascii=False).replace("<", "\\u003c"),
    }
    for name, value in filled.items():
        text = text.replace(f"<!--{name}-->", value)
    return text.encode("utf-8")


def _lines(text: str) -> str:
    return html.escape(text.strip()).replace("\n", "<br>")
