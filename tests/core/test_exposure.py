"""Exposure: known light in, known figures out."""

from __future__ import annotations

import math

import numpy as np
import pytest

from tests import photographs
from tests.edges import brighter
from winnow.core import exposure
from winnow.core.exposure import ExposureVerdict, measure_exposure


def flat(value: int) -> np.ndarray:
    return np.full((60, 90, 3), value, np.uint8)


# Source: sRGB, IEC 61966-2-1: 118 is 18 % grey, which lies log2(0.18) = −2.47 stops below white.
def test_grey_card() -> None:
    measured = measure_exposure(flat(118))
    assert measured.median_stops == pytest.approx(math.log2(0.18), abs=0.03)
    assert measured.spread_stops == 0
    assert (measured.clipped_high, measured.clipped_low, measured.high_at) == (0, 0, None)
    assert sum(measured.histogram) == pytest.approx(1) and measured.histogram[118 // 4] == 1


def test_luminance_weighs_channels_by_rec_709() -> None:
    stops = []
    for channel in range(3):
        picture = flat(0)
        picture[..., channel] = 255
        stops.append(measure_exposure(picture).median_stops)
    assert stops == pytest.approx([math.log2(w) for w in (0.2126, 0.7152, 0.0722)], abs=0.01)


def test_clipping_has_a_share_a_channel_and_a_place() -> None:
    picture = flat(100)
    picture[:30, 45:, 0] = 255
    picture[50:, :45] = 0
    measured = measure_exposure(picture)
    assert measured.clipped_high == pytest.approx(0.25, abs=0.01)
    assert measured.by_channel == pytest.approx((0.25, 0, 0), abs=0.01)
    assert measured.clipped_low == pytest.approx(1 / 12, abs=0.01)
    assert measured.high_at is not None and measured.high_at[0] > 0.5 > measured.high_at[1]
    assert measured.low_at is not None and measured.low_at[0] < 0.5 < measured.low_at[1]


@pytest.mark.parametrize("stops", [-2, -1, 1])
def test_stops_are_stops_on_a_real_photograph(stops: int) -> None:
    picture = np.asarray(photographs.photograph(1)).astype(np.float64)
    before = measure_exposure(picture.astype(np.uint8)).median_stops
    after = measure_exposure(np.clip(np.rint(brighter(picture, stops)), 0, 255).astype(np.uint8)).median_stops
    assert after - before == pytest.approx(stops, abs=0.1)


def test_verdicts() -> None:
    assert exposure.verdict(measure_exposure(flat(118))) is ExposureVerdict.OK
    assert exposure.verdict(measure_exposure(flat(3))) is ExposureVerdict.BLACK
    assert exposure.verdict(measure_exposure(flat(250))) is ExposureVerdict.OVER
    assert exposure.verdict(measure_exposure(flat(118)), -1.4) is ExposureVerdict.UNDER
    assert exposure.verdict(measure_exposure(flat(118)), 1.2) is ExposureVerdict.OVER
    assert exposure.verdict(measure_exposure(flat(118)), 0.4) is ExposureVerdict.OK
