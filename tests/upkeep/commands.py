"""Runs a command as a person does."""

from __future__ import annotations

import os
import subprocess
import sys
from pathlib import Path


def winnow(*words: str | Path, **environment: str) -> tuple[int, str]:
    """Exit status, and all that was said."""
    done = subprocess.run(
        [sys.executable, "-m", "winnow", *map(str, words)],
        stdout=subprocess.PIPE,
        stderr=subprocess.STDOUT,
        text=True,
        env={**os.environ, **environment},
        timeout=120,
    )
    return done.returncode, done.stdout
