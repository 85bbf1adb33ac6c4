"""A server of its own for a figure."""

from __future__ import annotations

import json
import re
import shutil
import subprocess
import sys
import urllib.request
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any


@contextmanager
def serving(data: Path, root: Path, *, keep: bool = False) -> Iterator[str]:
    """The address of a server on a data folder, which goes with it unless it is to be kept."""
    command = [sys.executable, "-m", "winnow", "serve", "--port", "0", "--no-secret"]
    process: subprocess.Popen[Any] = subprocess.Popen(
        [*command, "--data", str(data), "--root", str(root)], stdout=subprocess.PIPE, text=True
    )
    try:
        assert process.stdout is not None
        found = re.search(r"(http://[\d.:]+)/", process.stdout.readline())
        assert found is not None
        yield found[1]
    finally:
        process.terminate()
        process.wait(60)
        if not keep:
            shutil.rmtree(data, ignore_errors=True)


def post(address: str, body: object) -> Any:
    """The answer to a change."""
    headers = {"Content-Type": "application/json"}
    with urllib.request.urlopen(
        urllib.request.Request(address, json.dumps(body).encode(), headers)
    ) as answer:
        return json.load(answer)


def get(address: str) -> Any:
    """An answer."""
    with urllib.request.urlopen(address) as answer:
        return json.load(answer)
