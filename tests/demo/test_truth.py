"""The yardstick itself: truth.json as the tests read it, against the pictures."""

from __future__ import annotations

import numpy as np
import pytest

from tests import truth
from winnow.core.capture import from_tags
from winnow.demo.layout import shipped_frames
from winnow.formats import images


def test_counts_are_those_of_the_shipped_readme() -> None:
    frames = truth.frames().values()
    assert len(frames) == 163 and len(truth.groups()) == 43
    assert len({frame.scene for frame in frames}) == 7
    assert sum(frame.keeper for frame in frames) == 46
    counts = {d: sum(d in frame.defects for frame in frames) for d in ("blink", "missed_focus", "shake")}
    assert counts == {"blink": 32, "missed_focus": 16, "shake": 11}


def test_a_uniform_disc_has_a_quarter_of_its_diameter_as_standard_deviation() -> None:
    """Drawn and measured: the relation by which blur discs of the truth become σ."""
    y, x = np.mgrid[-60:61, -60:61]
    inside = x**2 + y**2 <= 50**2
    assert truth.sigma_of_disc(100) == pytest.approx(float(x[inside].std()), rel=0.01)


def test_coordinates_are_upright() -> None:
    """Eyes lie inside their faces, faces inside the upright picture, the eyes darker or more
    structured than the cheek below them."""
    turned = 0
    for frame in truth.frames().values():
        head = images.read_head(shipped_frames() / frame.path)
        assert (head.width, head.height) == (frame.width, frame.height)
        turned += from_tags(head.tags).orientation != 1
        for person in frame.people:
            x, y, width, height = person.box
            assert x >= 0 and x + width <= frame.width and y >= 0 and y + height <= frame.height
    assert turned > 10
    shown = truth.frames()["101TARN/TRN_0431.JPG"]  # stored turned
    pixels = images.decode(shipped_frames() / shown.path).pixels.mean(axis=2)
    for ex, ey in shown.people[0].eyes_at:
        eye = pixels[int(ey) - 12 : int(ey) + 12, int(ex) - 12 : int(ex) + 12]
        cheek = pixels[int(ey) + 70 : int(ey) + 94, int(ex) - 12 : int(ex) + 12]
        assert eye.std() > 2 * cheek.std()


def test_clock_of_the_second_body() -> None:
    """Exif says what the body's clock said; the truth says when it was."""
    offsets = truth.clock_offsets()
    assert sorted(offsets.values()) == [-200.0, 0.0]
