"""The examples in docstrings do what they say."""

from __future__ import annotations

import doctest
from importlib import import_module
from pathlib import Path

import pytest

import winnow

ROOT = Path(winnow.__file__).parent
WITH_EXAMPLES = [path for path in sorted(ROOT.rglob("*.py")) if ">>> " in path.read_text("utf-8")]


@pytest.mark.parametrize("path", WITH_EXAMPLES, ids=lambda path: str(path.relative_to(ROOT)))
def test_examples(path: Path) -> None:
    module = import_module(".".join(("winnow", *path.relative_to(ROOT).with_suffix("").parts)))
    done = doctest.testmod(module)
    assert done.attempted and not done.failed
