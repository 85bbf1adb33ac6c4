"""A simulated client: looks through a folder of proofs and answers with the names of the chosen.

By hand: `python -m winnow.demo.client FOLDER`. Names come as people type them: without the ending,
in small letters, with a space for the underscore, with two digits swapped, and once a name that was
never there.
"""

from __future__ import annotations

import random
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import Annotated

import typer

SHARE = 0.3
STRANGER = "the one with the cat"


@dataclass(frozen=True, slots=True)
class Choice:
    """A line of the answer, and the proof that was meant; None where no proof is."""

    typed: str
    meant: str | None


def choose(proofs: list[str], seed: int = 1) -> list[Choice]:
    """Chooses among proofs (file names, in sequence): about a third of them, in a loose order."""
    if not proofs:
        return []
    rng = random.Random(seed)
    chosen = rng.sample(proofs, max(1, round(SHARE * len(proofs))))
    ways: list[Callable[[str], str]] = [str, _no_ending, _small_letters, _space, _swapped]
    answer = [Choice(ways[n % len(ways)](name), name) for n, name in enumerate(chosen)]
    return [*answer, Choice(STRANGER, None)]


def _no_ending(name: str) -> str:
    return name.rpartition(".")[0] or name


def _small_letters(name: str) -> str:
    return name.lower()


def _space(name: str) -> str:
    return _no_ending(name).replace("_", " ")


def _swapped(name: str) -> str:
    """The last two digits that differ, the other way round."""
    base = _no_ending(name)
    for at in range(len(base) - 1, 0, -1):
        first, second = base[at - 1], base[at]
        if first.isdigit() and second.isdigit() and first != second:
            return base[: at - 1] + second + first + base[at + 1 :]
    return base


def main(folder: Path, seed: Annotated[int, typer.Option()] = 1) -> None:
    """Print the client's answer to a folder of proofs."""
    proofs = sorted(path.name for path in folder.iterdir() if path.is_file())
    for choice in choose(proofs, seed):
        typer.echo(choice.typed)


if __name__ == "__main__":
    typer.run(main)
