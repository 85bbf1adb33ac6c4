"""What the working copy has beyond the shipped frames, as other programs see it."""

from __future__ import annotations

import io
import json
import subprocess
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
import rawpy
from PIL import Image

from tests.pipeline.test_pipeline import prepared
from winnow.api.desk import Desk
from winnow.core.marks import Decision
from winnow.core.xmp_marks import from_xmp, to_xmp
from winnow.demo import widen
from winnow.demo.layout import lay_out
from winnow.formats import images, xmp


@pytest.fixture(scope="module")
def folder(tmp_path_factory: pytest.TempPathFactory) -> Path:
    return lay_out(tmp_path_factory.mktemp("demo"))


def exiftool(path: Path, *arguments: str) -> dict[str, object]:
    output = subprocess.run(["exiftool", "-j", *arguments, path], capture_output=True, check=True).stdout
    found: dict[str, object] = json.loads(output)[0]
    return found


@pytest.mark.parametrize("name", [widen.WITH_RAW[0], widen.WITH_RAW[1], widen.WITH_RAW[-1]])
def test_raw_companions_open_in_libraw_and_exiftool(folder: Path, name: str) -> None:
    """Independent readers: LibRaw through rawpy, and exiftool."""
    dng, jpeg = folder / widen.TARN / f"{name}.DNG", folder / widen.TARN / f"{name}.JPG"
    with rawpy.imread(str(dng)) as file:
        preview = file.extract_thumb()
        developed = file.postprocess(use_camera_wb=True, output_bps=8, no_auto_bright=True)
    assert preview.format is rawpy.ThumbFormat.JPEG
    assert Image.open(io.BytesIO(preview.data)).size == Image.open(jpeg).size
    shown = images.decode(jpeg).pixels
    assert developed.shape == shown.shape
    likeness = np.corrcoef(developed[::8, ::8].mean(axis=2).ravel(), shown[::8, ::8].mean(axis=2).ravel())
    assert likeness[0, 1] > 0.98
    kept = ("DateTimeOriginal", "SubSecTimeOriginal", "OffsetTimeOriginal", "FNumber", "ExposureTime",
            "ISO", "LensModel", "SerialNumber", "Orientation", "ExposureCompensation")  # fmt: skip
    wanted = [f"-{tag}" for tag in kept]
    of_raw, of_jpeg = (exiftool(path, *wanted) for path in (dng, jpeg))
    assert {tag: of_raw.get(tag) for tag in kept} == {tag: of_jpeg.get(tag) for tag in kept}


def test_a_card_as_it_comes(desk: Desk, tmp_path: Path) -> None:
    """RAW and JPEG are one frame, earlier marks are read in, damage is told of, nothing is dropped."""
    laid_out = lay_out(tmp_path)
    touched = {*widen.WITH_RAW, *widen.EARLIER_PASS, widen.DEVELOPED}
    for path in laid_out.rglob("*.JPG"):
        if path.stem not in touched and path.name not in (widen.TRUNCATED, widen.EMPTY, widen.TEXT):
            path.unlink()  # as shipped: other tests open the whole shoot
    found = prepared(desk, laid_out)
    assert len(found) == len(touched) + 3
    pairs = {name for name, row in found.items() if row["roles"] == "picture,raw"}
    with_both = {f"{widen.TARN}/{name}.JPG" for name in widen.WITH_RAW}
    assert pairs == with_both - {f"{widen.TARN}/{widen.DEVELOPED}.JPG"}
    developed = found[f"{widen.TARN}/{widen.DEVELOPED}.JPG"]
    assert (set(str(developed["roles"]).split(",")), developed["rating"]) == (
        {"picture", "raw", "sidecar"},
        4,
    )
    for name, (rating, label) in widen.EARLIER_PASS.items():
        row = found[f"{widen.TARN}/{name}.JPG"]
        decision = Decision.REJECT if rating == -1 else row["decision"]
        assert (row["decision"], row["rating"], row["label"]) == (decision, max(rating, 0), label)
    damage = {name: found[f"{widen.TARN}/{name}"] for name in (widen.TRUNCATED, widen.EMPTY, widen.TEXT)}
    assert "truncated" in str(damage[widen.TRUNCATED]["note"])
    assert damage[widen.TRUNCATED]["problem"] is None
    assert "empty" in str(damage[widen.EMPTY]["problem"])
    assert "holds text" in str(damage[widen.TEXT]["problem"])


def test_settings_of_others_survive_our_marks(folder: Path) -> None:
    sidecar = folder / widen.TARN / f"{widen.DEVELOPED}.xmp"
    before = exiftool(sidecar)
    ours = replace(from_xmp(xmp.read_marks(sidecar.read_bytes())), decision=Decision.KEEP, rating=2)
    sidecar.write_bytes(xmp.write_marks(sidecar.read_bytes(), to_xmp(ours)))
    after = exiftool(sidecar)
    assert (before["Rating"], after["Rating"]) == (4, 2)
    settings = {"Warmth", "Lift", "Crop", "Curve", "Creator", "Subject"}
    assert settings <= set(before)
    assert {key: before[key] for key in settings} == {key: after[key] for key in settings}
