"""What commands say where not every character can be shown: into a pipe on Windows, or in an old locale."""

from __future__ import annotations

import csv
import io
import os
import subprocess
import sys
from pathlib import Path

import pytest

from tests import photographs
from tests.server import running

NAME = "Öl 東京"


@pytest.fixture(scope="module")
def kept(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A data folder that knows one shoot of that name."""
    folder = tmp_path_factory.mktemp("kept")
    photographs.save(folder / NAME / f"{NAME}.JPG", edge=photographs.SMALL)
    with running(folder / "data", root=folder) as server:
        server.open(folder / NAME)
    return folder


def winnow(*words: str | Path) -> subprocess.CompletedProcess[bytes]:
    """As Windows runs it when what it says goes into a file: in code page 1252, which has an Ö and no 東."""
    environment = {**os.environ, "PYTHONIOENCODING": "cp1252"}
    command = [sys.executable, "-m", "winnow", *words]
    return subprocess.run(command, capture_output=True, env=environment, timeout=120)


def test_what_cannot_be_shown_is_written_in_other_words(kept: Path) -> None:
    said = winnow("status", "--data", kept / "data")
    assert (said.returncode, said.stderr) == (0, b"")
    assert "\nÖl \\u6771\\u4eac".encode("cp1252") in said.stdout.replace(b"\r\n", b"\n")
    backup = winnow("backup", kept / "東.zip", "--data", kept / "data")
    assert (backup.returncode, backup.stderr) == (0, b"")
    assert (kept / "東.zip").is_file() and rb"\u6771.zip" in backup.stdout


def test_a_list_is_utf_8_wherever_it_goes(kept: Path) -> None:
    found = winnow("export", kept / NAME, "--data", kept / "data")
    assert (found.returncode, found.stderr) == (0, b"")
    _, row = csv.reader(io.StringIO(found.stdout.decode("utf-8"), newline=""))
    assert row[0] == f"{NAME}.JPG"
    assert found.stdout.count(b"\n") == found.stdout.count(b"\r\n") == 2  # RFC 4180
