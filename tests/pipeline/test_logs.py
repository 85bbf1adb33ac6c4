"""The log tells what failed and where, in all processes, and names no picture unless that is wanted."""

from __future__ import annotations

import logging
import os
import subprocess
import sys
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import pytest

from tests import photographs
from tests.server import running
from winnow.pipeline import logs
from winnow.pipeline.logs import FILE, FOLDER, MOST_BYTES, NAMED

SECRETIVE = "Bride at the mill 0042.jpg"


def logged(error: Exception, monkeypatch: pytest.MonkeyPatch, *, names: bool) -> str:
    monkeypatch.setenv(NAMED, "1" if names else "")
    try:
        try:
            raise error
        except Exception as first:
            raise RuntimeError(f"while reading {SECRETIVE}") from first
    except RuntimeError:
        record = logging.LogRecord(
            "winnow.x",
            logging.ERROR,
            __file__,
            1,
            "reading %s",
            (logs.picture(f"/a/{SECRETIVE}"),),
            sys.exc_info(),
        )
    return logs.Discreet(logs.LINE).format(record)


@pytest.mark.parametrize(
    "error", [ValueError(SECRETIVE), FileNotFoundError(2, "No such file", SECRETIVE), KeyError(SECRETIVE)]
)
def test_names_are_left_out_unless_they_are_wanted(error: Exception, monkeypatch: pytest.MonkeyPatch) -> None:
    quiet = logged(error, monkeypatch, names=False)
    assert "Bride" not in quiet and "0042" not in quiet
    # What helps stays: of which kind, where, what the system said.
    assert type(error).__name__ in quiet and "test_logs.py" in quiet and "reading a file" in quiet
    assert ("No such file" in quiet) == isinstance(error, OSError)
    assert SECRETIVE in logged(error, monkeypatch, names=True)


def test_what_other_packages_say_is_cleared_of_paths(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv(NAMED, "")
    for message, arguments in ((f"watching /home/rada/{SECRETIVE}", ()), ("watching %s", (SECRETIVE,))):
        record = logging.LogRecord("watchfiles", logging.WARNING, "", 1, message, arguments, None)
        assert "Bride" not in logs.Discreet().format(record)


WRITER = """
import logging, sys
from winnow.pipeline import logs
logs.join()
log = logging.getLogger("winnow.writer")
for number in range(600):
    log.info("%s line %d %s", sys.argv[1], number, "x" * 900)
"""


def test_several_processes_write_one_log_that_goes_round(tmp_path: Path) -> None:
    env = {**os.environ, logs.PLACE: str(tmp_path), NAMED: ""}

    def write(name: str) -> None:
        subprocess.run([sys.executable, "-c", WRITER, name], check=True, env=env)

    with ThreadPoolExecutor(4) as pool:
        list(pool.map(write, "abcd"))
    files = [path for path in tmp_path.iterdir() if path.name.startswith(FILE)]
    lines = [line for path in files for line in path.read_text().splitlines()]
    assert len(lines) == 4 * 600 and all(line.count(" line ") == 1 for line in lines)
    assert len(files) > 1 and max(path.stat().st_size for path in files) <= MOST_BYTES + 2000


def test_a_run_on_pictures_that_fail_names_none_of_them(tmp_path: Path) -> None:
    pictures = tmp_path / "pictures"
    photographs.save(pictures / SECRETIVE)
    (pictures / "Groom 0043.jpg").write_bytes(b"\xff\xd8\xff\xe0 no picture")
    with running(tmp_path / "data", root=tmp_path) as server:
        shoot = server.open(pictures)
        server.request("GET", f"/api/pictures/1/{SECRETIVE.replace(' ', '%20')}/preview")
        pictures.rename(tmp_path / "elsewhere")
        server.post(f"/api/shoots/{shoot}/try-again")
    text = "".join(path.read_text() for path in (tmp_path / "data" / FOLDER).glob(f"{FILE}*"))
    assert "Winnow" in text and "2 frames" in text
    assert not any(word in text for word in ("Bride", "Groom", "0042", "0043"))
