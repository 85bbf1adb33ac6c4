"""Runs a command, or a script that uses Winnow, to its end."""

from __future__ import annotations

import os
import subprocess
import sys
from pathlib import Path

from tests.forking import Forked, loaded


def command(*words: object, **environment: str) -> subprocess.CompletedProcess[str]:
    """winnow with these words: status, output and errors."""
    environment = {**os.environ, **environment}
    if loaded().fits(environment):
        return loaded().run([str(word) for word in words], environment)
    return subprocess.run(
        [sys.executable, "-m", "winnow", *map(str, words)],
        capture_output=True,
        text=True,
        env=environment,
        timeout=120,
    )


def winnow(*words: str | Path, **environment: str) -> tuple[int, str]:
    """Exit status, and all that was said."""
    done = command(*words, **environment)
    return done.returncode, done.stdout + done.stderr


def script(code: str, *arguments: object, **environment: str) -> Forked | subprocess.Popen[str]:
    """Starts a script in which `sys.argv[1:]` are the arguments; what it says is piped."""
    environment = {**os.environ, **environment}
    words = [str(one) for one in arguments]
    if loaded().fits(environment):
        return loaded().start(words, environment, code)
    return subprocess.Popen(
        [sys.executable, "-c", code, *words], stdout=subprocess.PIPE, text=True, env=environment
    )
