"""Lays out a working copy of the demo shoot; the shipped one is never touched."""

from __future__ import annotations

import shutil
from importlib import resources
from pathlib import Path

from winnow.demo.widen import widen
from winnow.store import shoots
from winnow.store.database import DATABASE, Database

FOLDER_NAME = "Saltmarsh Kiln, open evening"


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


def start_over(data: Path) -> None:
    """Removes the working copy with everything known about it; other shoots stay."""
    database = Database(data / DATABASE)
    with database.transaction() as connection:
        shoots.forget(connection, (data / "demo" / FOLDER_NAME).resolve())
    shutil.rmtree(data / "demo", ignore_errors=True)
