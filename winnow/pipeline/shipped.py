"""What ships with the application is as it was built: the networks, and the pages with their fonts."""

from __future__ import annotations

import hashlib
from importlib.resources import files
from pathlib import Path

SUMS = "SHA256SUMS"
"""Lines as `sha256sum` writes them, of the files beside it."""


def damaged() -> list[str]:
    """Files that are missing or differ from their checksums, as a path below the package. What has no list of
    checksums, as the pages before they are built, is not looked at."""
    package = Path(str(files("winnow")))
    found = []
    for part in ("models", "api/static"):
        folder = package / part
        for line in _lines(folder / SUMS):
            digest, name = line.split(maxsplit=1)
            if not _is(folder / name, digest):
                found.append(f"{part}/{name}")
    return found


def _lines(sums: Path) -> list[str]:
    return sums.read_text("utf-8").splitlines() if sums.is_file() else []


def _is(path: Path, digest: str) -> bool:
    try:
        with path.open("rb") as file:
            return hashlib.file_digest(file, "sha256").hexdigest() == digest
    except OSError:
        return False
