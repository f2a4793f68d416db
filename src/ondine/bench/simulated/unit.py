"""The simulated flash unit: how its light leaves it over time."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

TIME_SAMPLES = 5

# Durations t0.5 of the simulated unit by power, read off in the logarithm.
_POWERS = np.log2([1 / 256, 1 / 128, 1 / 64, 1 / 32, 1 / 16, 1 / 4, 1.0])
_DURATIONS = np.log([19e-6, 25e-6, 36e-6, 56e-6, 94e-6, 340e-6, 1.02e-3])


def light_instants_s(power: float) -> NDArray[np.float64]:
    """Instants after the flash command at which equal shares of its light have left, shape (TIME_SAMPLES,)."""
    duration = float(np.exp(np.interp(math.log2(power), _POWERS, _DURATIONS)))
    # A steep rise, a slow fall, and a cut: most of the light comes early.
    shares = (np.arange(TIME_SAMPLES) + 0.5) / TIME_SAMPLES
    return np.asarray(duration * 1.25 * shares**1.2)
