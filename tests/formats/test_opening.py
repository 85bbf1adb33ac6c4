"""Files opened where they were listed, and nowhere else. Sources: POSIX.1-2008, open (O_NOFOLLOW, O_NONBLOCK);
CWE-367 (time of check, time of use), CWE-59 (links followed)."""

from __future__ import annotations

import os
import socket
import threading
from pathlib import Path

import pytest

from winnow.formats.opening import NotPlainError, create_plain, open_plain, open_regular, read_plain


@pytest.mark.parametrize("opener", [open_plain, open_regular])
def test_nothing_that_can_block_is_opened(tmp_path: Path, opener: object) -> None:
    os.mkfifo(tmp_path / "pipe.jpg")
    with socket.socket(socket.AF_UNIX) as listener:
        place = Path.cwd()
        os.chdir(tmp_path)
        listener.bind("socket.jpg")
        os.chdir(place)
    (tmp_path / "folder.jpg").mkdir()
    for name in ("pipe.jpg", "socket.jpg", "folder.jpg"):
        ended: list[type] = []

        def attempt(path: Path = tmp_path / name, ended: list[type] = ended) -> None:
            try:
                opener(path)  # type: ignore[operator]
            except OSError as error:
                ended.append(type(error))

        thread = threading.Thread(target=attempt, daemon=True)
        thread.start()
        thread.join(10)
        assert ended and not thread.is_alive(), name


def test_links_inside_are_followed_and_links_out_are_not(tmp_path: Path) -> None:
    shoot, other = tmp_path / "shoot", tmp_path / "other"
    (shoot / "a").mkdir(parents=True)
    other.mkdir()
    (shoot / "a" / "1.jpg").write_bytes(b"one")
    (other / "secret.jpg").write_bytes(b"secret")
    (shoot / "b").symlink_to("a")
    (shoot / "2.jpg").symlink_to("b/1.jpg")
    (shoot / "out.jpg").symlink_to(other / "secret.jpg")
    (shoot / "c").symlink_to(other)
    assert read_plain(shoot / "b" / "1.jpg", str(shoot)) == b"one"
    assert read_plain(shoot / "2.jpg", str(shoot)) == b"one"
    for path in (shoot / "out.jpg", shoot / "c" / "secret.jpg", shoot / ".." / "other" / "secret.jpg"):
        with pytest.raises(NotPlainError, match="leads out"):
            open_plain(path, str(shoot))
    with pytest.raises(NotPlainError, match="leads out"):
        open_plain(
            shoot / "out.jpg"
        )  # without a folder to hold it against, the last name is no link at least
    with pytest.raises(FileNotFoundError):
        open_plain(shoot / "gone.jpg", str(shoot))


def test_a_link_planted_between_looking_and_opening(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """The worst moment there is: the real path has been worked out, and then a folder on it becomes a link."""
    shoot, other = tmp_path / "shoot", tmp_path / "other"
    for folder in (shoot / "a", other):
        folder.mkdir(parents=True)
        (folder / "1.jpg").write_bytes(folder.name.encode())
    real = os.path.realpath

    def plant(path: object, *more: object) -> str:
        found = real(path, *more)  # type: ignore[arg-type, call-overload]
        if str(found).endswith("1.jpg") and not (shoot / "a").is_symlink():
            (shoot / "a").rename(shoot / "was")
            (shoot / "a").symlink_to(other)
        return str(found)

    monkeypatch.setattr(os.path, "realpath", plant)
    with pytest.raises(NotPlainError):
        open_plain(shoot / "a" / "1.jpg", str(shoot))
    assert (shoot / "a").is_symlink()


def test_nothing_is_written_through_a_link(tmp_path: Path) -> None:
    victim = tmp_path / "victim"
    victim.write_bytes(b"precious")
    (tmp_path / ".part").symlink_to(victim)
    with create_plain(tmp_path / ".part") as file:
        file.write(b"new")
    assert victim.read_bytes() == b"precious"
    assert (tmp_path / ".part").read_bytes() == b"new"
