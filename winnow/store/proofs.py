"""Proof sets, and what clients answered."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Sequence
from dataclasses import dataclass

from winnow.core.answer import Item, Verdict


@dataclass(frozen=True, slots=True)
class KeptProof:
    """A set that was planned for a client. frames: how many pictures it has."""

    id: str
    title: str
    made_at: str
    frames: int


@dataclass(frozen=True, slots=True)
class KeptAnswer:
    """What a client answered, as it was taken over: (frame, verdict, comment)."""

    id: int
    client: str
    at: str
    said: tuple[tuple[int, Verdict, str], ...]


def keep(
    connection: sqlite3.Connection, shoot_id: int, proof_id: str, title: str, items: Sequence[Item], now: str
) -> None:
    connection.execute("INSERT OR REPLACE INTO proof VALUES (?, ?, ?, ?)", (proof_id, shoot_id, title, now))
    connection.executemany(
        "INSERT OR REPLACE INTO proof_frame VALUES (?, ?, ?, ?)",
        [(proof_id, item.number, item.frame_id, item.name) for item in items],
    )


def of_shoot(connection: sqlite3.Connection, shoot_id: int) -> list[KeptProof]:
    """Those of a shoot, the newest first."""
    rows = connection.execute(
        """SELECT id, title, made_at, count(number) FROM proof LEFT JOIN proof_frame ON proof_id = id
           WHERE shoot_id = ? GROUP BY id ORDER BY made_at DESC, id""",
        (shoot_id,),
    )
    return [KeptProof(*row) for row in rows]


def items_of(connection: sqlite3.Connection, shoot_id: int, proof_id: str) -> list[Item]:
    """The pictures of a set, in its order; none where it is not one of the shoot."""
    rows = connection.execute(
        """SELECT number, name, frame_id FROM proof_frame JOIN proof ON id = proof_id
           WHERE shoot_id = ? AND proof_id = ? ORDER BY number""",
        (shoot_id, proof_id),
    )
    return [Item(*row) for row in rows]


def keep_answer(
    connection: sqlite3.Connection,
    shoot_id: int,
    client: str,
    said: Sequence[tuple[int, Verdict, str]],
    now: str,
) -> int:
    content = json.dumps(
        [[frame_id, verdict, comment] for frame_id, verdict, comment in said], ensure_ascii=False
    )
    kept = connection.execute(
        "INSERT INTO answer (shoot_id, client, at, content) VALUES (?, ?, ?, ?)",
        (shoot_id, client, now, content),
    ).lastrowid
    assert kept is not None
    return kept


def answers_of(connection: sqlite3.Connection, shoot_id: int) -> list[KeptAnswer]:
    """The answers of a shoot, the newest first."""
    rows = connection.execute("SELECT * FROM answer WHERE shoot_id = ? ORDER BY id DESC", (shoot_id,))
    return [
        KeptAnswer(
            row["id"],
            row["client"],
            row["at"],
            tuple(
                (frame_id, Verdict(verdict), comment)
                for frame_id, verdict, comment in json.loads(row["content"])
            ),
        )
        for row in rows
    ]


def forget_answer(connection: sqlite3.Connection, shoot_id: int, answer_id: int) -> None:
    """Forgets an answer; marks that were made of it stay."""
    connection.execute("DELETE FROM answer WHERE id = ? AND shoot_id = ?", (answer_id, shoot_id))
