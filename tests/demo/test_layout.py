"""The demo shoot and the frames that the benchmark makes of it."""

from __future__ import annotations

import hashlib
import json
from pathlib import Path

import pytest

from winnow.bench.frames import make_large_shoot
from winnow.core.capture import from_tags
from winnow.demo.layout import lay_out, shipped_frames
from winnow.formats import exif, images


def test_the_working_copy_is_laid_out_once_and_the_shipped_one_stays(tmp_path: Path) -> None:
    before = {p.name: p.stat().st_mtime_ns for p in shipped_frames().rglob("*.JPG")}
    assert len(before) == 163
    folder = lay_out(tmp_path)
    frame = next(folder.rglob("TRN_0412.JPG"))
    frame.write_bytes(b"changed by the person")
    assert lay_out(tmp_path) == folder
    assert frame.read_bytes() == b"changed by the person"
    assert {p.name: p.stat().st_mtime_ns for p in shipped_frames().rglob("*.JPG")} == before


def test_capture_data_of_the_demo_frames_agree_with_their_truth() -> None:
    """truth.json was written with the pictures, by other code than reads them here."""
    truth = json.loads((shipped_frames().parent / "truth.json").read_text())
    for frame in truth["frames"]:
        head = images.read_head(shipped_frames().parent / frame["file"])
        found = from_tags(head.tags)
        assert (head.width, head.height) == (frame["width"], frame["height"])
        assert found.orientation == frame["exif_orientation"]
        assert found.captured_at == frame["camera_time"]
        assert found.serial == frame["camera_serial"]
        assert found.lens == frame["lens"]
        assert found.focal_mm == pytest.approx(frame["focal_length_mm"], abs=0.5)
        assert found.aperture == pytest.approx(frame["aperture"], abs=0.05)
        assert found.shutter_s == pytest.approx(frame["shutter_s"], rel=0.02)
        assert found.iso == frame["iso"]


def test_large_frames(tmp_path: Path) -> None:
    make_large_shoot(tmp_path, 2, distinct=1)
    files = sorted(tmp_path.rglob("*.JPG"))
    assert len({hashlib.sha256(path.read_bytes()).hexdigest() for path in files}) == 2
    heads = [images.read_head(path) for path in files]
    assert {(head.width, head.height) for head in heads} == {(6000, 4000)}
    times = [from_tags(head.tags).captured_at for head in heads]
    assert times == sorted(set(times))  # type: ignore[type-var]
    assert all(exif.embedded_thumbnail(path.read_bytes()) for path in files)
