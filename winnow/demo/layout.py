"""Lays out a working copy of the demo shoot; the shipped one is never touched."""

from __future__ import annotations

import shutil
import sys
import tempfile
from importlib import resources
from pathlib import Path

from winnow.core.editor_command import FILES
from winnow.demo import second_evening
from winnow.demo.card import Card
from winnow.demo.widen import widen
from winnow.store import editors, shoots
from winnow.store.database import DATABASE, Database

FOLDER_NAME = "Saltmarsh Kiln, open evening"
VOLUMES, CARD_NAME = "volumes", "TARN II"
EDITOR = "Stand-in"


def shipped_frames() -> Path:
    """The folder of frames that ships with the application."""
    return Path(str(resources.files("winnow.demo"))) / "shoot" / "frames"


def lay_out(data: Path) -> Path:
    """The working copy in the data folder, made at the first call."""
    target = data / "demo" / FOLDER_NAME
    if not target.exists():
        unfinished = target.with_name(target.name + ".part")
        shutil.rmtree(unfinished, ignore_errors=True)
        shutil.copytree(shipped_frames(), unfinished)
        widen(unfinished)
        unfinished.rename(target)
    return target


def lay_out_card(data: Path) -> Path:
    """A card with the frames of the next evening, made at the first call: the folder in which it turns up."""
    volumes = data / "demo" / VOLUMES
    slot = volumes / CARD_NAME
    if not slot.exists():
        with tempfile.TemporaryDirectory(dir=data) as folder:
            frames = Path(folder) / "frames"
            second_evening.make(shipped_frames(), frames)
            Card(slot, frames).insert()
    return volumes


def offer_editor(data: Path) -> None:
    """The stand-in for an editing program, among the programs that frames can be opened in."""
    with Database(data / DATABASE).transaction() as connection:
        editors.keep(connection, EDITOR, f'"{sys.executable}" -m winnow.demo.editor --derive {FILES}')


def start_over(data: Path) -> None:
    """Removes the working copy with everything known about it; other shoots stay."""
    database = Database(data / DATABASE)
    with database.transaction() as connection:
        shoots.forget(connection, (data / "demo" / FOLDER_NAME).resolve())
    for folder in (data / "demo" / VOLUMES).rglob("*"):
        if folder.is_dir():
            folder.chmod(0o755)  # a card lets nobody write
    shutil.rmtree(data / "demo", ignore_errors=True)
