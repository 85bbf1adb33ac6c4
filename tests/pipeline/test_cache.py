"""Room for derived pictures: what was looked at longest ago is forgotten first."""

from __future__ import annotations

import io
import os
import time
from pathlib import Path

from PIL import Image

from tests.server import Server, until
from winnow.pipeline.cache import LOOKED_AT_S, Cache, Kind

SOI, EOI = b"\xff\xd8", b"\xff\xd9"
"""How a JPEG begins and ends (ISO/IEC 10918-1, B.1.1.3)."""


def kept(cache: Cache, kind: Kind, count: int, size: int = 1000) -> list[str]:
    """`count` pictures of a kind; the first was looked at longest ago."""
    versions = [f"{n:020x}" for n in range(count)]
    for age, version in enumerate(reversed(versions)):
        cache.write(kind, version, SOI + bytes(size - 4) + EOI)
        at = time.time() - LOOKED_AT_S * 2 - age * 100
        os.utime(cache.path(kind, version), (at, at))
    return versions


def test_what_was_looked_at_longest_ago_goes_first(tmp_path: Path) -> None:
    cache = Cache(tmp_path)
    versions = kept(cache, Kind.PREVIEW, 10)
    thumbs = kept(cache, Kind.THUMB, 10, 50)
    assert cache.read(Kind.PREVIEW, versions[0]) is not None  # looked at now
    assert cache.trim(4500) <= 4500
    left = [version for version in versions if cache.has(Kind.PREVIEW, version)]
    assert left == [versions[0], *versions[-3:]]
    assert all(cache.has(Kind.THUMB, version) for version in thumbs)
    assert cache.trim(200) == 200
    assert [version for version in thumbs if cache.has(Kind.THUMB, version)] == thumbs[-4:]


def test_pictures_of_all_pixels_get_a_share(tmp_path: Path) -> None:
    cache = Cache(tmp_path)
    previews, full = kept(cache, Kind.PREVIEW, 4), kept(cache, Kind.FULL, 4)
    cache.trim(16_000)
    assert all(cache.has(Kind.PREVIEW, version) for version in previews)
    assert [version for version in full if cache.has(Kind.FULL, version)] == full[-2:]


def test_the_setting_holds_and_what_is_forgotten_is_made_again(
    lone_server: Server, shoot_folder: Path
) -> None:
    shoot = lone_server.open(shoot_folder)
    until(lambda: lone_server.get("/api/settings")["cache_bytes"])
    assert lone_server.get("/api/settings")["cache_gb"] == 40
    status, _, _ = lone_server.request("PUT", "/api/settings", {"cache_gb": 0})
    assert status == 422
    assert lone_server.request("PUT", "/api/settings", {"cache_gb": 7})[0] == 200
    assert lone_server.get("/api/settings")["cache_gb"] == 7
    frame = lone_server.frames(shoot)[0]
    path = f"/api/pictures/{frame['id']}/{frame['version']}/preview"
    before = lone_server.request("GET", path)[2]
    for preview in shoot_folder.parents[1].glob("data/cache/preview/??/*.jpg"):
        preview.unlink()
    status, _, body = lone_server.request("GET", path)
    assert (status, body) == (200, before)


def test_a_picture_that_a_power_cut_left_empty_or_cut_off_is_made_again(
    lone_server: Server, shoot_folder: Path
) -> None:
    shoot = lone_server.open(shoot_folder)
    frame = lone_server.frames(shoot)[0]
    for kind in ("thumb", "preview", "tiny"):
        path = f"/api/pictures/{frame['id']}/{frame['version']}/{kind}"
        before = lone_server.request("GET", path)[2]
        (made,) = shoot_folder.parents[1].glob(
            f"data/cache/{kind}/??/{frame['version'].partition('.')[0]}.jpg"
        )
        for damaged in (b"", before[:200]):
            made.write_bytes(damaged)
            status, _, body = lone_server.request("GET", path)
            assert status == 200
            with Image.open(io.BytesIO(body)) as again, Image.open(io.BytesIO(before)) as first:
                again.load()
                assert again.size == first.size
