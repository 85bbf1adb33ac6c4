"""The lines between the rooms of the house."""

from __future__ import annotations

import json
import shutil
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


WEB = ROOT / "web"


UP_OR_DOWN = {
    ("ui", "../shoot/store"): False,
    ("ui", "../keys/inForce"): True,
    ("keys", "../ui/controls"): False,
    ("api", "../ui/format"): False,
    ("pictures", "../shoot/store"): False,
    ("shoot", "../pictures/zoom"): False,
    ("shoot/outbox", "../../screens/wall/sight"): False,
    ("shoot/outbox", "../../api/client"): True,
    ("panels/spine", "../../screens/wall/sight"): False,
    ("panels/spine", "../../shoot/store"): True,
    ("screens/wall", "../bench/stageStore"): False,
    ("screens/wall", "../../app/overlay"): False,
    ("screens/wall", "../../panels/shown"): True,
    ("app", "../screens/wall/sight"): True,
}
"""Whether a module of a room may import another: the arrows of the interface run down."""


def test_an_import_that_runs_back_up_fails_the_check(tmp_path: Path) -> None:
    for n, (place, target) in enumerate(UP_OR_DOWN):
        _module(
            tmp_path, f"{place}/trial{n}.ts", f'import * as found from "{target}";\n\nconsole.log(found);\n'
        )
    refused = _linted(tmp_path)
    for n, ((place, target), allowed) in enumerate(UP_OR_DOWN.items()):
        assert (f"src/{place}/trial{n}.ts" not in refused) is allowed, (place, target)


def test_a_circle_of_imports_fails_the_check(tmp_path: Path) -> None:
    _module(tmp_path, "ui/one.ts", 'import { b } from "./other";\n\nexport const a = () => b;\n')
    _module(tmp_path, "ui/other.ts", 'import { a } from "./one";\n\nexport const b = () => a;\n')
    assert "src/ui/one.ts" in _linted(tmp_path)


def _module(root: Path, name: str, text: str) -> None:
    path = root / "src" / name
    path.parent.mkdir(parents=True, exist_ok=True)
    path.write_text(text)


def _linted(root: Path) -> str:
    """What the linter of the interface says of the modules in a folder."""
    shutil.copy(WEB / "biome.json", root)
    biome = WEB / "node_modules" / ".bin" / "biome"
    said = subprocess.run(
        [biome, "lint", "--max-diagnostics=none", "--colors=off", "src"],
        cwd=root,
        capture_output=True,
        text=True,
    )
    assert said.returncode != 0
    return said.stdout + said.stderr


def test_what_is_drawn_stays_out_of_the_shoot_and_the_pictures() -> None:
    found = [
        path for room in ("shoot", "pictures", "keys", "api") for path in (WEB / "src" / room).rglob("*.tsx")
    ]
    assert found == []


def test_parts_of_one_page_do_not_talk_over_its_window() -> None:
    sources = [path for path in (WEB / "src").rglob("*.ts*") if path.name != "schema.d.ts"]
    assert len(sources) > 100
    assert [path for path in sources if "dispatchEvent" in path.read_text()] == []
