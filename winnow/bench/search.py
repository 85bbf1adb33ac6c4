"""Searching over many shoots, at sizes that a studio has: `python -m winnow.bench.search --frames 1000000`."""

from __future__ import annotations

import tempfile
import time
from pathlib import Path
from statistics import median
from typing import Annotated

import typer

from winnow.bench.figures import percentile
from winnow.store import search, shoots
from winnow.store.database import DATABASE, Database

NOW = "2026-10-17T20:00:00.000+00:00"
QUESTIONS = (
    "TRN_0481",
    "bowl",
    "kiln 2026-10-17",
    "tarn ii rotating",
    "retouch glaze",
    "october wheel",
    "nothing-like-this",
    "jpg",
)
"""Rare and common words, beginnings, several at once; the last is in every name."""
WORDS = (
    "bowl glaze kiln wheel hands apron smoke shelf lamp potter thrown fired salt marsh evening door".split()
)


def fill(database: Database, count: int, shoots_of: int) -> None:
    """So many frames in so many shoots, with marks and words on a third of them."""
    each = count // shoots_of
    for number in range(shoots_of):
        with database.transaction() as connection:
            shoot_id = shoots.open_folder(connection, Path(f"/nowhere/{WORDS[number % 16]} {number}"), NOW)
            folder = connection.execute("SELECT id FROM folder WHERE shoot_id = ?", (shoot_id,)).fetchone()[0]
            connection.executemany(
                """INSERT INTO frame (shoot_id, folder_id, name, version, position, captured_at, camera, lens,
                   width, height, revision) VALUES (?, ?, ?, ?, ?, ?, ?, ?, 6000, 4000, 1)""",
                (
                    (
                        shoot_id,
                        folder,
                        f"{100 + n // 1000}TARN/TRN_{n % 10000:04}.JPG",
                        f"{number:06x}{n:08x}",
                        n,
                        f"2026-{1 + number % 12:02}-{1 + number % 28:02}T16:{n // 60 % 60:02}:{n % 60:02}+01:00",
                        f"Tarn {'I' * (1 + number % 3)}",
                        "Rotating 50 mm" if n % 5 else "Tarn 105 mm",
                    )
                    for n in range(each)
                ),
            )
            connection.execute(
                """INSERT INTO mark (frame_id, decision, rating, label, caption)
                   SELECT id, 'keep', id % 6, iif(id % 7, NULL, 'retouch'),
                     json_object('x-default', ? || ' ' || (id % 997) || ' ' || ?)
                   FROM frame WHERE shoot_id = ? AND id % 3 = 0""",
                (WORDS[number % 16], WORDS[number * 7 % 16], shoot_id),
            )
            connection.execute("UPDATE shoot SET revision = 1 WHERE id = ?", (shoot_id,))


def main(
    frames: Annotated[int, typer.Option(help="Frames in all.")] = 1_000_000,
    shoots_of: Annotated[int, typer.Option("--shoots", help="In so many shoots.")] = 200,
    rounds: Annotated[int, typer.Option(help="So often each question is asked.")] = 20,
) -> None:
    """Fills a database, writes down what frames are found by, and asks."""
    with tempfile.TemporaryDirectory(prefix="search-") as name:
        database = Database(Path(name) / DATABASE)
        fill(database, frames, shoots_of)
        before = database.path.stat().st_size
        began = time.monotonic()
        for shoot_id in search.stale(database.connection()):
            search.bring_up(database, shoot_id)
        took = time.monotonic() - began
        database.connection().execute("PRAGMA wal_checkpoint(TRUNCATE)")
        grown = database.path.stat().st_size - before
        typer.echo(f"{frames} frames in {took:.0f} s ({frames / took:.0f} a second), {grown / 1e6:.0f} MB")
        for question in QUESTIONS:
            times = []
            for _ in range(rounds):
                began = time.monotonic()
                answer = search.find(database.connection(), question, 8)
                times.append(1000 * (time.monotonic() - began))
            typer.echo(
                f"{question:<20} {answer.frames:>6} frames, {len(answer.shoots):>3} shoots: "
                f"median {median(times):6.1f} ms, 95th percentile {percentile(times, 95):6.1f} ms"
            )


if __name__ == "__main__":
    typer.run(main)
