"""The OpenAPI document on standard output, from which the interface's types are generated."""

from __future__ import annotations

import json
import tempfile
from pathlib import Path

from winnow.api.app import create_app
from winnow.api.desk import Desk


def document() -> str:
    with tempfile.TemporaryDirectory() as folder:
        app = create_app(Desk.set_up(Path(folder), []))
        return json.dumps(app.openapi(), indent=1, ensure_ascii=False) + "\n"


if __name__ == "__main__":
    print(document(), end="")
