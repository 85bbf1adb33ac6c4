"""Words on frames: what some have in common, which keywords a shoot uses, templates, the vocabulary."""

from __future__ import annotations

import json
import sqlite3
from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import asdict, dataclass
from datetime import datetime
from typing import Any

from winnow.core.labels import LabelSet
from winnow.core.marks import WORD_FIELDS, Field
from winnow.core.pairing import split_name
from winnow.core.tokens import About
from winnow.core.words import list_of
from winnow.store.database import in_chunks, places
from winnow.store.readable import readable

VOCABULARY = "vocabulary"


def held(connection: sqlite3.Connection, frame_ids: Sequence[int]) -> dict[Field, Counter[str | None]]:
    """For each field, the texts that marks hold there and on how many of some frames each is."""
    found: dict[Field, Counter[str | None]] = {field: Counter() for field in WORD_FIELDS}
    wordless = len(frame_ids)
    for some in in_chunks(list(frame_ids)):
        for row in connection.execute(
            f"SELECT {', '.join(WORD_FIELDS)} FROM mark WHERE frame_id IN ({places(some)})", some
        ):
            wordless -= 1
            for field, text in zip(WORD_FIELDS, row, strict=True):
                found[field][text] += 1
    for counted in found.values():
        counted[None] += wordless  # frames that nothing was ever said of
    return found


def about(
    connection: sqlite3.Connection, frame_ids: Sequence[int], title: str, named: LabelSet | None = None
) -> dict[int, About]:
    """What tokens say of frames, which are counted in the order given. named: what labels are called."""
    counters = {frame_id: place for place, frame_id in enumerate(frame_ids, 1)}
    found = {}
    for some in in_chunks(list(frame_ids)):
        for frame_id, taken, camera, scene, name, serial, group, rating, label in connection.execute(
            f"""SELECT id, captured_at, camera, scene, name, serial, frame_group, coalesce(rating, 0), label
                FROM frame LEFT JOIN mark ON mark.frame_id = frame.id WHERE id IN ({places(some)})""",
            some,
        ):
            base = split_name(name.rpartition("/")[2])[0]
            found[frame_id] = About(
                datetime.fromisoformat(taken) if taken else None,
                camera or "",
                title,
                scene + 1,
                base,
                counters[frame_id],
                serial or "",
                group + 1,
                base[len(base.rstrip("0123456789")) :],
                rating,
                (named.name_of(label) if named else label) if label else "",
            )
    return found


def keywords_in_use(connection: sqlite3.Connection, shoot_id: int) -> Mapping[str, int]:
    """The keywords of a shoot, and on how many frames each is."""
    counted: Counter[str] = Counter()
    for text, frames in connection.execute(
        """SELECT keywords, count(*) FROM mark JOIN frame ON frame.id = frame_id
           WHERE shoot_id = ? AND keywords IS NOT NULL GROUP BY keywords""",
        (shoot_id,),
    ):
        counted.update(dict.fromkeys(list_of(text), frames))
    return counted


def vocabulary(connection: sqlite3.Connection) -> str:
    """The person's list of keywords as it was read in (see `core.vocabulary`), empty where there is none."""
    row = connection.execute("SELECT value FROM setting WHERE name = ?", (VOCABULARY,)).fetchone()
    return str(row[0]) if row else ""


def set_vocabulary(connection: sqlite3.Connection, text: str) -> None:
    connection.execute("INSERT OR REPLACE INTO setting VALUES (?, ?)", (VOCABULARY, text))


@dataclass(frozen=True, slots=True)
class Template:
    """Words to be said again and again, with tokens; an empty one says nothing."""

    name: str
    caption: str = ""
    headline: str = ""
    keywords: tuple[str, ...] = ()
    creators: tuple[str, ...] = ()
    copyright: str = ""


def templates(connection: sqlite3.Connection) -> list[Template]:
    """By name."""
    rows = connection.execute("SELECT content FROM template ORDER BY name COLLATE NOCASE")
    return readable(rows, lambda row: _template(json.loads(row[0])))


def _template(kept: dict[str, Any]) -> Template:
    lists = {name: tuple(kept[name]) for name in ("keywords", "creators")}
    return Template(**{**kept, **lists})


def keep_template(connection: sqlite3.Connection, template: Template) -> None:
    """In the place of another of that name."""
    connection.execute(
        "INSERT OR REPLACE INTO template VALUES (?, ?)",
        (template.name, json.dumps(asdict(template), ensure_ascii=False)),
    )


def forget_template(connection: sqlite3.Connection, name: str) -> None:
    connection.execute("DELETE FROM template WHERE name = ?", (name,))
