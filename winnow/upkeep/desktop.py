"""A place among the applications of a desktop, and a unit that a session can start.

Sources: Desktop Entry Specification 1.5, Icon Theme Specification, XDG Base Directory Specification
(freedesktop.org); systemd.service(5), systemd.unit(5).
"""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
from importlib import resources
from pathlib import Path

from platformdirs import user_config_path, user_data_path

ENTRY = """[Desktop Entry]
Type=Application
Version=1.0
Name=Winnow
GenericName=Photo culling
Comment=See every frame of a shoot, compare, decide, hand on the keepers
Exec={program} serve --browser %F
Icon=winnow
Terminal=false
StartupNotify=false
Categories=Graphics;Photography;
MimeType=inode/directory;
Keywords=photo;cull;select;rate;raw;
"""

UNIT = """[Unit]
Description=Winnow, for culling photographs

[Service]
ExecStart={program} serve --no-browser
KillSignal=SIGINT
TimeoutStopSec=60
Restart=on-failure
NoNewPrivileges=yes

[Install]
WantedBy=default.target
"""


class NotHereError(RuntimeError):
    """This system has no such desktop; the message says what to do instead."""


def places() -> dict[str, Path]:
    """Where what goes."""
    data = user_data_path()
    return {
        "entry": data / "applications" / "winnow.desktop",
        "icon": data / "icons" / "hicolor" / "scalable" / "apps" / "winnow.svg",
        "unit": user_config_path() / "systemd" / "user" / "winnow.service",
    }


def install() -> list[Path]:
    """Writes all of it; a second time it is written anew. Raises NotHereError, OSError."""
    if sys.platform != "linux":
        raise NotHereError(
            "This is for Linux desktops: elsewhere, start winnow serve by a shortcut of the system."
        )
    program = _program()
    icon = Path(str(resources.files("winnow"))) / "api" / "static" / "favicon.svg"
    if not icon.is_file():
        raise NotHereError("The pages are not built yet: run 'make setup' first.")
    there = places()
    for path in there.values():
        path.parent.mkdir(parents=True, exist_ok=True)
    there["icon"].write_bytes(icon.read_bytes())
    there["entry"].write_text(ENTRY.format(program=_quoted(program)), "utf-8")
    there["unit"].write_text(UNIT.format(program=_escaped(program)), "utf-8")
    _tell(there["entry"].parent)
    return list(there.values())


def remove() -> list[Path]:
    """Takes away what `install` wrote; returns what was there. Raises OSError."""
    there = [path for path in places().values() if path.exists()]
    for path in there:
        path.unlink()
    if there:
        _tell(places()["entry"].parent)
    return there


def _program() -> str:
    """The winnow command of this installation."""
    beside = Path(sys.executable).with_name("winnow")
    found = str(beside) if beside.is_file() else shutil.which("winnow")
    if not found:
        raise NotHereError("The command winnow is not installed: install it with pipx, then try again.")
    return os.path.abspath(found)


def _quoted(text: str) -> str:
    """As an argument of Exec (Desktop Entry Specification, "The Exec key"): quoted, then escaped as a string."""
    inside = "".join(f"\\{c}" if c in '"`$\\' else c for c in text).replace("%", "%%")
    return '"' + inside.replace("\\", "\\\\") + '"'


def _escaped(text: str) -> str:
    """As an argument in a unit: blanks and backslashes as C escapes, % and $ doubled (systemd.service(5))."""
    text = text.replace("\\", "\\\\").replace("%", "%%").replace("$", "$$")
    return text.replace(" ", "\\x20").replace('"', "\\x22").replace("'", "\\x27")


def _tell(applications: Path) -> None:
    """Desktops that keep an index of what opens which files hear of the change."""
    if shutil.which("update-desktop-database"):
        subprocess.run(["update-desktop-database", str(applications)], check=False, capture_output=True)
