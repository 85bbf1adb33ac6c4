"""The person's labels: every version that there ever was is kept, so that any change can be taken back."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Mapping
from functools import lru_cache
from typing import Any

from winnow.core.labels import FIRST, Colour, Label, LabelSet, Shape
from winnow.store.frames import FramePlace

VERSIONS_KEPT = 200


def current(connection: sqlite3.Connection) -> LabelSet:
    """The labels in force."""
    row = connection.execute("SELECT content FROM label_set ORDER BY id DESC LIMIT 1").fetchone()
    return _read(row[0]) if row else FIRST


def version(connection: sqlite3.Connection) -> tuple[int, str | None]:
    """The number of the version in force, 0 before anything was changed; and what was changed last."""
    row = connection.execute("SELECT id, said FROM label_set ORDER BY id DESC LIMIT 1").fetchone()
    return (row[0], row[1]) if row else (0, None)


def define(connection: sqlite3.Connection, labels: LabelSet, said: str, now: str) -> None:
    """Labels from now on. said: what was changed, in words."""
    connection.execute(
        "INSERT INTO label_set (at, said, content) VALUES (?, ?, ?)", (now, said, json.dumps(as_json(labels)))
    )
    connection.execute(
        "DELETE FROM label_set WHERE id <= (SELECT max(id) FROM label_set) - ?", (VERSIONS_KEPT,)
    )


def take_back(connection: sqlite3.Connection) -> None:
    """The labels as they were before the last change."""
    connection.execute("DELETE FROM label_set WHERE id = (SELECT max(id) FROM label_set)")


def use(connection: sqlite3.Connection) -> dict[str, tuple[int, int]]:
    """Text that frames hold → how many frames do, in how many shoots."""
    rows = connection.execute(
        """SELECT label, count(*), count(DISTINCT shoot_id) FROM mark JOIN frame ON frame.id = frame_id
           WHERE label IS NOT NULL AND place <> ? GROUP BY label""",
        (FramePlace.MISSING,),
    )
    return {row[0]: (row[1], row[2]) for row in rows}


def as_json(labels: LabelSet) -> dict[str, Any]:
    """Labels as they are kept, exported and sent."""
    return {
        "labels": [
            {
                "id": label.id,
                "name": label.name,
                "meaning": label.meaning,
                "colour": label.colour.value,
                "shape": label.shape.value,
                "key": label.key,
                "texts": dict(label.texts),
                "also": list(label.also),
            }
            for label in labels.labels
        ],
        "program": labels.program,
    }


def from_json(content: Mapping[str, Any]) -> LabelSet:
    """The opposite of `as_json`. Raises ValueError for labels that cannot be."""
    return LabelSet(
        tuple(
            Label(
                label["id"],
                label["name"],
                label["meaning"],
                Colour(label["colour"]),
                Shape(label["shape"]),
                label["key"],
                dict(label["texts"]),
                tuple(label["also"]),
            )
            for label in content["labels"]
        ),
        content["program"],
    )


@lru_cache(maxsize=4)
def _read(content: str) -> LabelSet:
    return from_json(json.loads(content))
