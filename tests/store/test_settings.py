"""Settings in a file that a person edits. TOML is written by hand here and read by the standard library's tomllib."""

from __future__ import annotations

import tomllib
from pathlib import Path

import pytest

from tests.server import Server, start
from winnow.core.settings import Settings
from winnow.store.database import DATABASE, Database
from winnow.store.settings import FILE, SettingsError, SettingsFile


def test_all_settings_stand_in_the_file_with_what_they_mean(tmp_path: Path) -> None:
    file = Database(tmp_path / DATABASE).settings
    text = file.path.read_text("utf-8")
    assert tomllib.loads(text) == Settings.model_validate({}).model_dump()
    for field in Settings.model_fields.values():
        first = str(field.description).split(". ")[0].split()[:3]
        assert " ".join(first) in text.replace("\n# ", " ")


def test_what_a_person_wrote_stays_when_the_screen_changes_something(tmp_path: Path) -> None:
    file = SettingsFile(tmp_path)
    file.path.write_text("# mine\ncache_gb = 12  # the small disk\n")
    assert file.now().cache_gb == 12
    file.change({"watch": False, "cache_gb": 20})
    text = file.path.read_text()
    assert "# mine" in text and "# the small disk" in text
    assert tomllib.loads(text) == {"cache_gb": 20, "watch": False}
    assert SettingsFile(tmp_path).check().cache_gb == 20


def test_a_link_to_a_file_that_is_kept_elsewhere_stays_one(tmp_path: Path) -> None:
    kept = tmp_path / "dotfiles" / "winnow.toml"
    kept.parent.mkdir()
    kept.write_text("cache_gb = 5\n")
    (tmp_path / FILE).symlink_to(kept)
    SettingsFile(tmp_path).change({"cache_gb": 6})
    assert (tmp_path / FILE).is_symlink() and tomllib.loads(kept.read_text()) == {"cache_gb": 6}


@pytest.mark.parametrize(
    ("text", "told"),
    [
        ("cache_gb = 0", "cache_gb"),
        ("cache_gb = true", "cache_gb"),
        ("cache_gb = 1.5", "cache_gb"),
        ("cash_gb = 4", "no such setting"),
        ("cache_gb = 4\n[half", "line 2"),
        ("takes_in = 'no'", "takes_in"),
    ],
)
def test_a_file_that_cannot_be_read_leaves_what_it_said_last(tmp_path: Path, text: str, told: str) -> None:
    file = SettingsFile(tmp_path)
    file.path.write_text("cache_gb = 9")
    assert file.now().cache_gb == 9
    file.path.write_text(text)
    assert file.now().cache_gb == 9 and told in str(file.problem)
    with pytest.raises(SettingsError, match=told):
        file.change({"cache_gb": 3})
    assert file.path.read_text() == text
    file.path.write_text("cache_gb = 10")
    assert file.check().cache_gb == 10 and file.problem is None


def test_winnow_does_not_start_on_settings_that_it_cannot_read(tmp_path: Path) -> None:
    (tmp_path / FILE).write_text("cache_gb = 'much'")
    with pytest.raises(AssertionError, match="no address"):
        start(tmp_path)


def test_settings_of_an_earlier_version_come_along(tmp_path: Path) -> None:
    with Database(tmp_path / DATABASE).transaction() as connection:
        for row in (("cache-gb", "77"), ("takes-in", "0"), ("full-sidecar-names", "1")):
            connection.execute("INSERT INTO setting VALUES (?, ?)", row)
    (tmp_path / FILE).unlink()
    now = Database(tmp_path / DATABASE).settings.check()
    assert (now.cache_gb, now.takes_in, now.full_sidecar_names) == (77, False, True)


def test_the_interface_changes_the_file_and_hears_of_it(lone_server: Server, tmp_path: Path) -> None:
    assert lone_server.request("PUT", "/api/settings", {"cache_gb": 8, "watch": False})[0] == 200
    file = tmp_path / "data" / FILE
    assert tomllib.loads(file.read_text())["cache_gb"] == 8
    file.write_text("cache_gb = 5")
    assert lone_server.get("/api/settings")["cache_gb"] == 5
    file.write_text("cache_gb = 'five'")
    answer = lone_server.get("/api/settings")
    assert answer["cache_gb"] == 5 and "cache_gb" in answer["problem"]
    status, _, body = lone_server.request("PUT", "/api/settings", {"cache_gb": 6})
    assert status == 422 and b"settings.toml" in body
    assert set(answer["meanings"]) == set(Settings.model_fields)
