"""How alike two frames are: small descriptors of each, and what comparing two of them says.

Sources: perceptual hash, Zauner, *Implementation and benchmarking of perceptual image hash functions*, 2010
(the DCT form, as `ImageHash.phash`); colour layout on a grid in CIELAB; matched features, Rublee et al., *ORB:
an efficient alternative to SIFT or SURF*, ICCV 2011, checked by a similarity transform with RANSAC (Fischler
& Bolles 1981).
"""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

Picture = NDArray[np.uint8]
Floats = NDArray[np.float32]

SMALL_EDGE = 480
"""Descriptors are made of a picture of this long edge, px."""
GRID = 8
SKETCH = 48
"""Side of the grey sketch that is laid over another, whatever the shape of the frame."""
SLIDE = 6
"""How far the sketch is moved about, px of it."""
FEATURES = 300
CLOSE_BITS = 64
"""Features that differ in more bits are not taken for the same."""
TOLERANCE_PX = 4.0


@dataclass(frozen=True, slots=True)
class Descriptor:
    """What is kept of a frame to compare it: perceptual hash (64 bits), colours (8, 8, 3) in CIELAB as OpenCV
    scales it, sketch (48, 48) grey, points (n, 2) in px of the small picture with their features (n, 32),
    and the small picture's (width, height)."""

    hash: int
    colours: Picture
    sketch: Picture
    points: NDArray[np.float16]
    features: Picture
    size: tuple[int, int]


@dataclass(frozen=True, slots=True)
class Likeness:
    """Two frames compared. structure: −1 to 1, correlation of the sketches at their best overlay. colour: mean
    distance in CIELAB, brightness of the whole left out. matched: share of the features that one similarity
    transform takes from one to the other, 0 to 1; None where it was not asked for."""

    structure: float
    colour: float
    bits: int
    matched: float | None = None


def describe(picture: Picture) -> Descriptor:
    """The descriptor of an upright sRGB picture (rows, columns, 3) of any size, best some 500 to 1000 px."""
    height, width = picture.shape[:2]
    scale = SMALL_EDGE / max(height, width)
    size = (max(8, round(width * scale)), max(8, round(height * scale)))
    small = np.asarray(cv2.resize(picture, size, interpolation=cv2.INTER_AREA), dtype=np.uint8)
    grey = cv2.cvtColor(small, cv2.COLOR_RGB2GRAY)
    cells = cv2.resize(small, (GRID, GRID), interpolation=cv2.INTER_AREA)
    levelled = cv2.createCLAHE(2.0).apply(grey)
    found, features = cv2.ORB.create(FEATURES, fastThreshold=8).detectAndCompute(levelled, None)
    points = np.array([point.pt for point in found], np.float16).reshape(-1, 2)
    return Descriptor(
        perceptual_hash(np.asarray(cv2.resize(grey, (32, 32), interpolation=cv2.INTER_AREA), np.float32)),
        np.asarray(cv2.cvtColor(cells, cv2.COLOR_RGB2LAB), np.uint8),
        np.asarray(cv2.resize(grey, (SKETCH, SKETCH), interpolation=cv2.INTER_AREA), np.uint8),
        points,
        np.asarray(features, np.uint8) if features is not None else np.zeros((0, 32), np.uint8),
        size,
    )


def perceptual_hash(grey: Floats) -> int:
    """64 bits: which of the 8 × 8 lowest frequencies of a 32 × 32 grey picture lie above their median.

    The first bit is the highest. Equals `ImageHash.phash` on the same 32 × 32 picture.
    """
    spectrum = cv2.dct(grey.astype(np.float64))[:8, :8]
    # OpenCV's transform is orthonormal; the published hash uses the plain one.
    spectrum[0] *= np.sqrt(2)
    spectrum[:, 0] *= np.sqrt(2)
    bits = (spectrum > np.median(spectrum)).ravel()
    return int("".join("1" if bit else "0" for bit in bits), 2)


def compare(one: Descriptor, other: Descriptor, *, match: bool = False) -> Likeness:
    """How alike two frames are; `match` asks for the features too, which takes about a millisecond."""
    inner = one.sketch[SLIDE:-SLIDE, SLIDE:-SLIDE]
    overlay = cv2.matchTemplate(other.sketch, inner, cv2.TM_CCOEFF_NORMED)
    apart = one.colours.astype(np.float32) - other.colours.astype(np.float32)
    apart[..., 0] -= apart[..., 0].mean()
    return Likeness(
        structure=float(np.nan_to_num(overlay.max(), nan=0.0, posinf=0.0)),
        colour=float(np.sqrt((apart**2).sum(axis=2)).mean()),
        bits=(one.hash ^ other.hash).bit_count(),
        matched=_matched(one, other) if match else None,
    )


def _matched(one: Descriptor, other: Descriptor) -> float:
    pairs = matched_points(one, other)
    if pairs is None:
        return 0.0
    return pairs.kept / max(1, min(len(one.points), len(other.points)))


@dataclass(frozen=True, slots=True)
class Registration:
    """A similarity transform (2 × 3) that takes px of one small picture to px of the other, and how many
    features agree with it."""

    affine: NDArray[np.float64]
    kept: int


def matched_points(one: Descriptor, other: Descriptor) -> Registration | None:
    """The transform that the matched features of two frames agree on, None if they agree on none."""
    if min(len(one.points), len(other.points)) < 8:
        return None
    matches = [
        match
        for match in cv2.BFMatcher(cv2.NORM_HAMMING, crossCheck=True).match(one.features, other.features)
        if match.distance < CLOSE_BITS
    ]
    if len(matches) < 8:
        return None
    affine, kept = cv2.estimateAffinePartial2D(
        one.points[[m.queryIdx for m in matches]].astype(np.float32),
        other.points[[m.trainIdx for m in matches]].astype(np.float32),
        method=cv2.RANSAC,
        ransacReprojThreshold=TOLERANCE_PX,
    )
    if affine is None or not 0.4 < float(np.hypot(affine[0, 0], affine[1, 0])) < 2.5:
        return None
    return Registration(np.asarray(affine, np.float64), int(kept.sum()))
