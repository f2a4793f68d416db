"""The flash as shutter: how long it shines."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import ArrayLike, NDArray

Floats = NDArray[np.float64]

BATTERY_FLASH_DECAY_S = 1.33e-3
BATTERY_FLASH_SWITCHING_S = 13e-6
"""Time constant and switching time fitted to the durations of practice-known battery flashes."""


def flash_duration_s(power: ArrayLike) -> Floats:
    """Duration t0.5 of a battery flash that cuts its discharge: min(-τ·ln(1 - p), τ·ln 2) + r.

    power : fraction of full, over 0 to 1 [1]. Returns the same shape [s].
    Within 10 % of full 1/1000 s, 1/16 1/11 000 s, 1/128 1/41 600 s: common practice, no published source.
    """
    p = np.asarray(power, dtype=float)
    with np.errstate(divide="ignore"):
        cut_off = -BATTERY_FLASH_DECAY_S * np.log1p(-np.minimum(p, 1.0))
    return np.asarray(np.minimum(cut_off, BATTERY_FLASH_DECAY_S * math.log(2)) + BATTERY_FLASH_SWITCHING_S)
