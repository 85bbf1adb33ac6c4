"""Frames opened in another program: it is started and left alone. `pipeline.watching` notices what it writes."""

from __future__ import annotations

import contextlib
import os
import shutil
import subprocess
import sys
import threading
from collections.abc import Sequence
from pathlib import Path
from sqlite3 import Connection

from winnow.core.editor_command import calls, words_of
from winnow.core.pairing import Role
from winnow.store import frame_files
from winnow.store.database import display

IS_WINDOWS = sys.platform == "win32"
LONGEST_CALL = 30_000 if IS_WINDOWS else 500_000
"""Bytes of a command line: Windows takes 32,767 characters, Linux a quarter of the stack (2 MB)."""
PATIENCE_S = 1.0
"""A program that fails at once does so within this time."""
OUTPUT = "editor.log"
"""In the data folder: what the program opened last had to say."""


class EditorError(ValueError):
    """The program cannot be used; the message says what to do."""


def check(command: str) -> list[str]:
    """The words of a command whose program is there. Raises EditorError."""
    try:
        words = words_of(command, backslashes=IS_WINDOWS)
    except ValueError as error:
        raise EditorError(str(error)) from error
    if shutil.which(words[0]) is None:
        raise EditorError(f"{display(words[0])} is no program that can be started: give its whole path.")
    return words


def open_in(command: str, paths: Sequence[str], data: Path) -> None:
    """Starts the program with the files, and does not wait for its end. Raises EditorError where it cannot be
    started, or fails at once."""
    for call in calls(check(command), paths, LONGEST_CALL):
        output = data / OUTPUT
        try:
            with output.open("wb") as log:
                # A session of its own: it goes on when this program ends, and no Ctrl C of ours reaches it.
                process = subprocess.Popen(
                    call,
                    stdin=subprocess.DEVNULL,
                    stdout=log,
                    stderr=log,
                    start_new_session=True,
                    cwd=Path.home(),
                )
        except OSError as error:
            raise EditorError(f"{display(call[0])} cannot be started ({error.strerror}).") from error
        with contextlib.suppress(subprocess.TimeoutExpired):
            if process.wait(PATIENCE_S) != 0:
                raise EditorError(f"{display(call[0])} ended with an error: {_last_words(output)}")
        threading.Thread(target=process.wait, daemon=True, name="editor").start()


def chosen_files(
    connection: Connection, frame_ids: Sequence[int], prefer: Role
) -> tuple[list[str], list[str]]:
    """The files of frames to open, and those that are not there: of each the RAW file or the picture, whichever is
    preferred, or the one that it has."""
    there: list[str] = []
    missing: list[str] = []
    for files in frame_files.files_of(connection, frame_ids).values():
        pictures = [file for file in files if file.role != Role.SIDECAR]
        wanted = next((file for file in pictures if file.role == prefer), pictures[0] if pictures else None)
        if wanted is not None:
            (there if os.path.isfile(wanted.path) else missing).append(wanted.path)
    return there, missing


def _last_words(output: Path) -> str:
    lines = [line.strip() for line in output.read_text("utf-8", "replace").splitlines() if line.strip()]
    return lines[-1][:300] if lines else "it did not say why."
