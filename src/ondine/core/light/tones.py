"""What a test picture says of its exposure: a region's median, and what is clipped."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ondine.core.light.anchor import BLACK, BLOWN, Rating
from ondine.core.setup.light import Tone

Floats = NDArray[np.float64]

TONES = {Tone.WHITE: 0.85, Tone.GREY: 0.18, Tone.BLACK: 0.004}
"""Linear values that a background should come out at."""

SUBJECT_LINEAR = 0.25
"""Linear value of a well-lit splash: room above for the sparkle."""

CLIPPED = 0.985
DARKEST = 0.0015
"""Where an 8-bit picture has nothing more to tell."""


@dataclass(frozen=True)
class Tones:
    """A region: linear median of its green-weighted brightness [1], shares clipped at the top and black [1], and a
    histogram of 64 bins over the coded scale, shape (64,).
    """

    median: float
    clipped: float
    black: float
    histogram: Floats


def linear(coded: NDArray[np.uint8] | Floats) -> Floats:
    """Undo the sRGB tone curve, IEC 61966-2-1. coded : 0 to 255, or 0 to 1 as floats. Returns its shape, 0 to 1."""
    if coded.dtype == np.uint8:
        # A test frame has a million pixels, but only 256 values.
        return np.asarray(_LINEAR_OF_BYTE[coded])
    share = np.asarray(coded, dtype=float)
    return np.asarray(np.where(share <= 0.04045, share / 12.92, ((share + 0.055) / 1.055) ** 2.4))


_LINEAR_OF_BYTE = linear(np.arange(256) / 255)


def tones(coded: NDArray[np.uint8]) -> Tones:
    """Read a region of a picture. coded : shape (height, width, 3), sRGB. Raises ValueError for an empty one."""
    if coded.size == 0:
        raise ValueError("The region is empty. Drag a larger one over the picture.")
    light = linear(coded)
    bright, top = light @ np.array([0.2126, 0.7152, 0.0722]), light.max(axis=-1)
    counts, _ = np.histogram(coded.max(axis=-1), bins=64, range=(0, 256))
    return Tones(
        median=float(np.median(bright)),
        clipped=float(np.mean(top >= CLIPPED)),
        black=float(np.mean(top <= DARKEST)),
        histogram=counts / counts.sum(),
    )


def rating_of(read: Tones, wanted_linear: float) -> Rating:
    """Rate a region against the linear value [1] that it should have: a number, or a bound if it is clipped."""
    if read.clipped > 0.5:
        return BLOWN
    if read.black > 0.5 and wanted_linear > DARKEST:
        return BLACK
    stops = math.log2(max(read.median, DARKEST / 2) / wanted_linear)
    return Rating(stops, stops)
