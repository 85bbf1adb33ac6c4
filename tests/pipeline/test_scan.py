"""What lies on disk, whatever it is called, however large it is and whenever it is dated."""

from __future__ import annotations

import os
from pathlib import Path

import pytest
from hypothesis import HealthCheck, assume, given, settings
from hypothesis import strategies as st

from winnow.core.pairing import Role, role_of
from winnow.pipeline.scan import date_of, list_folder, mtime_of
from winnow.store import frame_files, frames, listing, shoots
from winnow.store.database import Database

NOW = "2026-10-17T20:00:00.000+00:00"

SUFFIXES = [
    b".jpg",
    b".JPG",
    b".jpeg",
    b".nef",
    b".dng",
    b".heic",
    b".tif",
    b".xmp",
    b".jpg.xmp",
    b".txt",
    b"",
]

bases = st.one_of(
    st.binary(min_size=1, max_size=247),
    st.text(min_size=1, max_size=60).map(lambda text: text.encode("utf-8", "replace")),
    st.sampled_from([b"WIN_0001", b"WIN_0002", b"win_0001"]),
)
files = st.tuples(
    st.tuples(bases, st.sampled_from(SUFFIXES)).map(b"".join),
    st.integers(-(2**35), 2**35),
    st.integers(0, 999_999_999),
    st.sampled_from([0, 1, 4096]),
)


@settings(max_examples=60, deadline=None, suppress_health_check=list(HealthCheck))
@given(st.lists(files, max_size=12))
def test_every_file_that_counts_is_listed_once_and_can_be_kept(
    tmp_path_factory: pytest.TempPathFactory, wanted: list[tuple[bytes, int, int, int]]
) -> None:
    folder = tmp_path_factory.mktemp("scan")
    names = set()
    for name, seconds, nanoseconds, size in wanted:
        assume(b"/" not in name and b"\0" not in name and name not in (b".", b".."))
        path = os.fsencode(folder) + b"/" + name
        with open(path, "wb") as file:
            file.write(bytes(size))
        os.utime(path, ns=(0, seconds * 10**9 + nanoseconds))
        names.add(os.fsdecode(name))
    found = list_folder(str(folder))
    assert not found.notes
    listed = [os.path.basename(file.path) for frame in found.frames for file in frame.files]
    assert len(listed) == len(set(listed))
    seen = {name for name in names if not name.startswith(".")}
    assert set(listed) <= seen
    # A sidecar without a picture is no frame; every picture is one, or goes with one.
    assert {name for name in seen if role_of(name) in (Role.PICTURE, Role.RAW)} <= set(listed)
    for frame in found.frames:
        assert frame.name.encode()  # can travel in JSON
        for file in frame.files:
            assert -(2**63) <= file.mtime_ns < 2**63
            assert date_of(os.stat(file.path)).endswith("+00:00")
            assert file.mtime_ns == mtime_of(os.stat(file.path))
    database = Database(tmp_path_factory.mktemp("data") / "w.sqlite")
    with database.transaction() as connection:
        shoot_id = shoots.open_folder(connection, folder, NOW)
        every = [(1, frame) for frame in found.frames]
        assert listing.reconcile(connection, shoot_id, every, {}, 1) == len(every)
        assert listing.reconcile(connection, shoot_id, every, {}, 2) == 0
    kept = frame_files.files_of(
        database.connection(), [row["id"] for row in frames.summaries(database.connection(), shoot_id)]
    )
    paths = {file.path for of_frame in kept.values() for file in of_frame}
    assert paths == {file.path for frame in found.frames for file in frame.files}


def test_forty_levels_and_a_loop(tmp_path: Path) -> None:
    deep = tmp_path
    for level in range(40):
        deep = deep / f"{level:02d}"
    deep.mkdir(parents=True)
    (deep / "a.jpg").write_bytes(b"x")
    (deep / "loop").symlink_to(tmp_path)
    found = list_folder(str(tmp_path))
    assert [Path(frame.name).name for frame in found.frames] == ["a.jpg"]
