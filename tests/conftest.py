"""Fixtures that several folders of tests share."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import pytest

from tests import photographs
from tests.server import Server, running
from winnow.api.desk import Desk


@pytest.fixture
def shoot_folder(tmp_path: Path) -> Path:
    """A folder of six real photographs."""
    return photographs.shoot(tmp_path / "shoots" / "Six")


@pytest.fixture
def desk(tmp_path: Path) -> Iterator[Desk]:
    """A desk with its engine running, allowed to open anything below the test's own folder."""
    desk = Desk.set_up(tmp_path / "data", [tmp_path])
    desk.start()
    yield desk
    desk.stop()


@pytest.fixture
def server(tmp_path: Path) -> Iterator[Server]:
    """`winnow serve` as a process of its own."""
    with running(tmp_path / "data", root=tmp_path) as server:
        yield server
