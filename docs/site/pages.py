"""The pages of the site that do not stand in `docs/`: the front page, what stands beside the code, and the reference,
which is made of the code. A hook of mkdocs."""

from __future__ import annotations

import json
import re
from pathlib import Path

import typer
from mkdocs.config.defaults import MkDocsConfig
from mkdocs.structure.files import File, Files
from typer.cli import get_docs_for_click

from winnow.cli import app
from winnow.core.settings import Settings

ROOT = Path(__file__).parents[2]
OPENAPI = ROOT / "web" / "openapi.json"
BESIDE = {"README.md": "index.md"} | {
    f"{name}.md": f"{name.lower()}.md" for name in ("CONTRIBUTING", "CHANGELOG", "SECURITY", "NOTICE")
}
"""Files of the repository that are pages, and under which name."""
PACKAGES = {
    "core": "The rules of the job and its computation: pure, without files and without a database.",
    "store": "What is kept, in SQLite.",
    "formats": "Files of cameras and of other programs, read and written.",
    "pipeline": "Background work: listing, reading, measuring, grouping.",
    "handoff": "All that touches files or leaves.",
    "client": "The client for other programs.",
}
METHODS = ("get", "put", "post", "patch", "delete")


def on_files(files: Files, config: MkDocsConfig) -> Files:
    """Adds the pages that are made."""
    pages = {page: (ROOT / name).read_text() for name, page in BESIDE.items()}
    pages |= {
        "reference/command-line.md": _command_line(),
        "reference/settings.md": _settings(),
        "reference/http.md": _http(),
    }
    pages |= {f"reference/{name}.md": _package(name, about) for name, about in PACKAGES.items()}
    for name, text in pages.items():
        files.append(File.generated(config, name, content=_at_home(text)))
    return files


def _at_home(markdown: str) -> str:
    """Links of files in the root of the repository, as they are from the root of the site."""
    moved = re.sub(r"\]\(docs/", "](", markdown)
    for name, page in BESIDE.items():
        moved = moved.replace(f"]({name}", f"]({page}")
    return moved


def _command_line() -> str:
    command = typer.main.get_command(app)
    context = typer.Context(command, info_name="winnow")
    return str(get_docs_for_click(obj=command, ctx=context, name="winnow", title="Command line"))


def _settings() -> str:
    rows = [
        f"| `{name}` | `{json.dumps(one.default)}` | {one.description} |"
        for name, one in Settings.model_fields.items()
    ]
    about = "In `settings.toml` of the data folder: see [on your desk](../desk.md#settings)."
    return "\n".join(["# Settings", "", about, "", "| Name | Unless set | |", "|---|---|---|", *rows, ""])


def _http() -> str:
    """Operations by subject. Bodies and answers are in the OpenAPI document."""
    lines = ["# HTTP", "", "What holds for all of it stands in [the API](../api.md).", ""]
    by_subject: dict[str, list[str]] = {}
    for path, operations in json.loads(OPENAPI.read_text())["paths"].items():
        for method in METHODS:
            if one := operations.get(method):
                said = " ".join(one.get("description", "").split())
                row = f"| `{method.upper()} {path}` | {said.replace('|', '/')} |"
                by_subject.setdefault(one["tags"][0], []).append(row)
    for subject, rows in sorted(by_subject.items()):
        lines += [f"## {subject.capitalize()}", "", "| | |", "|---|---|", *rows, ""]
    return "\n".join(lines)


def _package(name: str, about: str) -> str:
    return f"# winnow.{name}\n\n{about}\n\n::: winnow.{name}\n    options:\n      show_submodules: true\n"
