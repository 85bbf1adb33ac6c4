"""The documentation as pages: built without a network, with nothing from elsewhere, and with all that there is."""

from __future__ import annotations

import html.parser
import re
import shutil
import subprocess
import sys
from pathlib import Path

ROOT = Path(__file__).parents[2]


class Loaded(html.parser.HTMLParser):
    """What a page loads by itself."""

    def __init__(self) -> None:
        super().__init__()
        self.addresses: list[str] = []

    def handle_starttag(self, tag: str, attrs: list[tuple[str, str | None]]) -> None:
        said = dict(attrs)
        self.addresses += [str(said["src"])] if "src" in said else []
        self.addresses += [str(said["href"])] if tag == "link" else []


def test_all_of_it_is_built_and_loads_nothing_from_elsewhere(tmp_path: Path) -> None:
    command = [
        sys.executable,
        "-m",
        "mkdocs",
        "build",
        "--strict",
        "--quiet",
        "--site-dir",
        str(tmp_path / "site"),
    ]
    unshare = ["unshare", "--net", "--map-root-user"] if shutil.which("unshare") else []
    offline = subprocess.run([*unshare, "true"]).returncode == 0
    done = subprocess.run([*(unshare if offline else []), *command], cwd=ROOT, capture_output=True, text=True)
    # Strict: a link to nowhere, and a page that no way leads to, are errors.
    assert done.returncode == 0, done.stderr
    pages = {
        path.relative_to(tmp_path / "site").as_posix(): path.read_text() for path in tmp_path.rglob("*.html")
    }
    for name, text in pages.items():
        page = Loaded()
        page.feed(text)
        assert not [one for one in page.addresses if re.match(r"(\w+:)?//", one)], name
    for style in tmp_path.rglob("*.css"):
        assert not re.search(r"url\(\s*['\"]?(https?:)?//", style.read_text()), style.name
    assert {f"{path.stem}.html" for path in (ROOT / "docs").glob("*.md")} <= set(pages)
    # The reference is that of the code.
    assert "cache_gb" in pages["reference/settings.html"]
    assert "winnow analyse" in pages["reference/command-line.html"]
    assert "PUT /api/shoots/{shoot_id}/here" in pages["reference/http.html"]
    for package in ("core", "store", "formats", "pipeline", "handoff"):
        named = {path.stem for path in (ROOT / "winnow" / package).glob("[a-z]*.py")}
        assert named <= set(re.findall(rf'id="winnow\.{package}\.(\w+)"', pages[f"reference/{package}.html"]))
