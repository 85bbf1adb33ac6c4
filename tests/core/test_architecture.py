"""The lines between the rooms of the house."""

from __future__ import annotations

import json
import subprocess
from pathlib import Path

from winnow.api.schema import document

ROOT = Path(__file__).parents[2]


def test_interface_types_follow_the_api(tmp_path: Path) -> None:
    committed = (ROOT / "web" / "openapi.json").read_text()
    assert json.loads(document()) == json.loads(committed), "run: make types"
    generated = tmp_path / "schema.d.ts"
    generator = ROOT / "web" / "typegen" / "node_modules" / ".bin" / "openapi-typescript"
    subprocess.run(
        [generator, ROOT / "web" / "openapi.json", "-o", generated], check=True, capture_output=True
    )
    assert generated.read_text() == (ROOT / "web" / "src" / "api" / "schema.d.ts").read_text()


def test_core_touches_nothing_outside() -> None:
    forbidden = ("sqlite3", "pathlib", "open(", "fastapi", "time.time", "datetime.now", "import random")
    modules = list((ROOT / "winnow" / "core").rglob("*.py"))
    assert {"core", "focus", "faces"} <= {path.parent.name for path in modules}
    for path in modules:
        text = path.read_text()
        assert not [word for word in forbidden if word in text], path
