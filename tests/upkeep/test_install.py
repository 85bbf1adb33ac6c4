"""What is built is what a person installs: the sdist builds the wheel, the wheel runs in an environment that has
nothing of this one, without Node and without the source."""

from __future__ import annotations

import os
import re
import subprocess
import sys
import tarfile
import zipfile
from pathlib import Path

import pytest

from tests.server import running
from winnow import __version__

ROOT = Path(__file__).parents[2]
BIN = Path(sys.executable).parent


def run(*words: str | Path, **environment: str) -> str:
    done = subprocess.run(
        [*map(str, words)], capture_output=True, text=True, cwd="/", env={**os.environ, **environment}
    )
    assert done.returncode == 0, done.stdout[-2000:] + done.stderr[-2000:]
    return done.stdout


@pytest.fixture(scope="module")
def built(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A folder with the sdist, and with the wheel that was built from it."""
    target = tmp_path_factory.mktemp("dist")
    run(BIN / "python", "-m", "build", "--no-isolation", "--outdir", target, ROOT)
    return target


def test_the_sdist_and_the_wheel_hold_all_that_ships(built: Path) -> None:
    (sdist,), (wheel,) = built.glob("*.tar.gz"), built.glob("*.whl")
    with tarfile.open(sdist) as packed:
        source = {name.partition("/")[2] for name in packed.getnames()}
    with zipfile.ZipFile(wheel) as packed:
        inside = {info.filename: info.file_size for info in packed.infolist()}
    kept = {path.relative_to(ROOT).as_posix() for path in (ROOT / "winnow").rglob("*") if path.is_file()}
    kept = {name for name in kept if "__pycache__" not in name}
    assert kept - set(inside) == set(), "files of the package are not in the wheel"
    assert kept - source == set(), "files of the package are not in the sdist"
    notices = {name.rsplit("/", 1)[1] for name in inside if ".dist-info/licenses/" in name}
    assert notices == {"LICENSE", "NOTICE.md"}
    assert not any(name.startswith(("tests/", "web/")) for name in inside)


def test_installed_with_pipx_it_lays_out_the_demo_and_serves(built: Path, tmp_path: Path) -> None:
    (wheel,) = built.glob("*.whl")
    home = {"PIPX_HOME": str(tmp_path / "pipx"), "PIPX_BIN_DIR": str(tmp_path / "bin"), "PYTHONPATH": ""}
    run(BIN / "pipx", "install", "--python", sys.executable, wheel, **home)
    winnow = tmp_path / "bin" / "winnow"
    assert run(winnow, "--version") == f"winnow {__version__}\n"
    with running(tmp_path / "data", root=tmp_path, command="demo", program=str(winnow)) as server:
        status, _, body = server.request("GET", "/")
        assert status == 200 and b"<script" in body and server.get("/api/shoots/1")["frames"] == 172
        parts = re.findall(r'"(/assets/[^"]+)"', body.decode())
        assert len(parts) >= 2 and all(server.request("GET", part)[0] == 200 for part in parts)
    assert "172 frames" in run(winnow, "status", "--data", tmp_path / "data")
    assert run(winnow, "doctor", "--data", tmp_path / "data") == "All is sound.\n"
