"""A simulated memory card: a read-only DCF folder that can be slow and can be pulled out.

By hand: `python -m winnow.demo.card insert FOLDER`, `python -m winnow.demo.card pull FOLDER`.
Source of the layout: DCF (CIPA DC-009): DCIM/100ABCDE/ABCD0001.JPG.
"""

from __future__ import annotations

import os
import shutil
import sys
import time
from pathlib import Path
from typing import Annotated, Literal

import typer

DCIM = "DCIM"
SHIPPED = Path(__file__).with_name("shoot") / "frames"


class Card:
    """A card with the demo frames on it, for the slot `slot`: a folder that need not exist."""

    def __init__(self, slot: Path, frames: Path | None = None) -> None:
        self.slot = slot.resolve()
        self.frames = frames or SHIPPED
        self._bytes_per_s: float | None = None
        self._reads_left: int | None = None
        self._lies: dict[str, bytes | None] = {}
        self._watched = self._busy = False

    def insert(self) -> Path:
        """Puts the card into its slot; returns the DCIM folder."""
        target = self.slot / DCIM
        shutil.copytree(self.frames, target)
        for path in (*target.rglob("*"), target):
            path.chmod(0o555 if path.is_dir() else 0o444)
        return target

    def pull(self) -> None:
        """Takes the card out at once. A file that is being read ends there; the next is not found."""
        gone = self.slot.with_name(self.slot.name + ".pulled")
        self.slot.rename(gone)
        for path in (gone, *(p for p in gone.rglob("*") if p.is_dir())):
            path.chmod(0o755)
        for path in gone.rglob("*"):
            if path.is_file():
                path.chmod(0o644)
                os.truncate(path, 0)
        shutil.rmtree(gone)

    def pull_at_read(self, count: int) -> None:
        """The card will be pulled as this process opens the file after the next `count` ones."""
        self._reads_left = count
        self._watch()

    def slow_down(self, bytes_per_s: float) -> None:
        """From now on this process waits, at every file it opens on the card, as long as reading it
        at that speed would take."""
        self._bytes_per_s = bytes_per_s
        self._watch()

    def misread_once(self, name: str) -> None:
        """The first time that this process opens a file of that name, the card gives wrong bytes for it."""
        self._lies[name] = None
        self._watch()

    def _misread(self, path: str) -> None:
        file = Path(path)
        if file.name not in self._lies:
            return
        right = self._lies[file.name]
        if right is None:
            right = self._lies[file.name] = file.read_bytes()
            wrong = right[: len(right) // 2] + bytes(64) + right[len(right) // 2 + 64 :]
            self._put(file, wrong)
        else:
            del self._lies[file.name]
            self._put(file, right)

    @staticmethod
    def _put(file: Path, content: bytes) -> None:
        stat = file.stat()
        file.chmod(0o644)
        file.write_bytes(content)
        file.chmod(0o444)
        os.utime(file, ns=(stat.st_atime_ns, stat.st_mtime_ns))

    def _watch(self) -> None:
        if not self._watched:
            self._watched = True
            sys.addaudithook(self._audit)  # hears of every file that the process opens

    def _audit(self, event: str, arguments: tuple[object, ...]) -> None:
        if event != "open" or not isinstance(arguments[0], (str, bytes)):
            return
        path = os.fsdecode(arguments[0])
        if not path.startswith(str(self.slot) + os.sep) or not os.path.isfile(path):
            return
        if not self._busy:
            self._busy = True
            try:
                self._misread(path)
            finally:
                self._busy = False
        if self._bytes_per_s:
            time.sleep(os.path.getsize(path) / self._bytes_per_s)
        if self._reads_left is not None:
            self._reads_left -= 1
            if self._reads_left < 0:
                self._reads_left = None
                self.pull()


def main(action: Annotated[Literal["insert", "pull"], typer.Argument()], slot: Path) -> None:
    """Insert the card into a folder, or pull it out."""
    card = Card(slot)
    if action == "insert":
        typer.echo(card.insert())
    else:
        card.pull()


if __name__ == "__main__":
    typer.run(main)
