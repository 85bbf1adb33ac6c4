"""The desktop entry and the unit are read by programs that read them on a desktop: desktop-file-utils, systemd."""

from __future__ import annotations

import configparser
import os
import subprocess
import sys
from pathlib import Path

import pytest

from tests.commands import winnow
from winnow.upkeep.desktop import _escaped, _quoted

pytestmark = pytest.mark.skipif(sys.platform != "linux", reason="there is no such desktop elsewhere")


def test_written_where_desktops_look_and_taken_away_again(tmp_path: Path) -> None:
    home = {"HOME": str(tmp_path), "XDG_DATA_HOME": "", "XDG_CONFIG_HOME": ""}
    code, told = winnow("install-desktop", **home)
    assert code == 0
    entry = tmp_path / ".local/share/applications/winnow.desktop"
    icon = tmp_path / ".local/share/icons/hicolor/scalable/apps/winnow.svg"
    unit = tmp_path / ".config/systemd/user/winnow.service"
    for path in (entry, icon, unit):
        assert path.is_file() and str(path) in told
    subprocess.run(["desktop-file-validate", entry], check=True)
    checked = subprocess.run(
        ["systemd-analyze", "verify", "--user", unit],
        capture_output=True,
        text=True,
        env={**os.environ, "XDG_RUNTIME_DIR": str(tmp_path)},
    )
    assert checked.returncode == 0 and "winnow.service" not in checked.stderr, checked.stderr
    parsed = configparser.ConfigParser(interpolation=None, strict=False)
    parsed.read(entry)
    program = parsed["Desktop Entry"]["Exec"].split('"')[1]
    assert subprocess.run([program, "--version"], capture_output=True, check=True).stdout.startswith(
        b"winnow "
    )
    assert winnow("install-desktop", **home)[0] == 0  # once more, over what is there
    assert winnow("install-desktop", "--remove", **home)[0] == 0
    assert not any(path.exists() for path in (entry, icon, unit))
    assert winnow("install-desktop", "--remove", **home) == (0, "")


def test_paths_with_blanks_and_signs_are_quoted() -> None:
    # Desktop Entry Specification, "The Exec key": the values of its own examples of what must be escaped.
    assert _quoted("/opt/my $app/winnow") == '"/opt/my \\\\$app/winnow"'
    assert _quoted("/a%b") == '"/a%%b"'
    # systemd.service(5), "Command lines": specifiers and variables are doubled.
    assert _escaped("/opt/my app/50%/$x") == "/opt/my\\x20app/50%%/$$x"
