"""Measure a lag: single drops, lit through one path and then through another, and how far each had come."""

from __future__ import annotations

import math
from collections.abc import Sequence as Many
from dataclasses import dataclass, replace

import numpy as np

from ondine.core.belief.priors import Belief
from ondine.core.constants import US_PER_S
from ondine.core.forecast.whole import forecast
from ondine.core.physics import flight
from ondine.core.setup import Setup, Triggers
from ondine.core.timing.sequence import Pulse, Sequence

FEWEST = 3


class LagError(ValueError):
    """Series that give no lag; the text says why and what to do."""


@dataclass(frozen=True)
class Lag:
    """How much later the second path's light comes [s], its standard error, and each path's jitter [s].

    The jitters contain the valve's own.
    """

    lag_s: float
    error_s: float
    jitter_one_s: float
    jitter_other_s: float


def lag_between(one_m: Many[float], other_m: Many[float], setup: Setup, belief: Belief, pulse: Pulse) -> Lag:
    """Compare the heights of a falling drop over the water in two series of pictures.

    one_m, other_m : heights of the drop's centre [m], three or more of each, above the water and under the nozzle;
    pulse : the opening that lets each drop go. Both series must be fired with the same delay.
    Raises LagError. The difference of means with Welch's standard error, √(s1²/n1 + s2²/n2) (Welch 1947).
    """
    if min(len(one_m), len(other_m)) < FEWEST:
        raise LagError(f"Measure {FEWEST} pictures or more of each path: from fewer no error can be told.")
    fall = _Fall.of(setup, belief, pulse)
    nozzle, radius = setup.valve(pulse.valve).nozzle_height_m, fall.diameter_m / 2
    for height in (*one_m, *other_m):
        if 0 < height <= radius:
            raise LagError(
                f"A drop {height * 1e3:.1f} mm over the water touches it already and has slowed. "
                "Fire both series with an earlier flash."
            )
        if not 0 < height < nozzle:
            raise LagError(
                f"A drop {height * 1e3:.0f} mm over the water is not under the nozzle: measure that one again."
            )
    one, other = (fall.passes_s(np.array(series)) for series in (one_m, other_m))
    spread_one, spread_other = float(one.std(ddof=1)), float(other.std(ddof=1))
    error = math.sqrt(spread_one**2 / len(one) + spread_other**2 / len(other))
    return Lag(float(other.mean() - one.mean()), error, spread_one, spread_other)


def passing_us(setup: Setup, belief: Belief, pulse: Pulse, height_m: float) -> int:
    """When the drop of a pulse passes a height over the water on the way down; height_m [m]. Returns [µs].

    By the middle of what is believed: it only has to be in the picture.
    """
    return pulse.start_us + round(float(_Fall.of(setup, belief, pulse).passes_s(np.array(height_m))) * US_PER_S)


def with_lag(t: Triggers, lag: Lag) -> Triggers:
    """Return triggers whose shutter takes up what was measured beyond the lags that were known."""
    jitter = math.sqrt(max(lag.jitter_other_s**2 - lag.jitter_one_s**2, 0.0))
    return replace(
        t, shutter_lag_s=max(t.shutter_lag_s + lag.lag_s, 0.0), shutter_jitter_s=jitter or t.shutter_jitter_s
    )


@dataclass(frozen=True)
class _Fall:
    """The fall of one drop on the middle rig of a belief."""

    release_s: float
    edge_m: float
    start_m_s: float
    terminal_m_s: float
    diameter_m: float

    @classmethod
    def of(cls, setup: Setup, belief: Belief, pulse: Pulse) -> _Fall:
        """Return the fall of the drop of a pulse that opens at once. Raises LagError where no drop falls."""
        falls = forecast(setup, belief, Sequence((replace(pulse, start_us=0),), ())).falls
        parts = (falls.release_s, falls.height_m, falls.start_m_s, falls.terminal_m_s, falls.diameter_m)
        values = [float(part[0, 0]) for part in parts]
        if not all(map(math.isfinite, values)):
            raise LagError("No drop falls at this open time: open the valve longer than its dead time.")
        return cls(*values)

    def passes_s(self, height_m: np.ndarray) -> np.ndarray:
        """When its centre passes heights over the water, after the opening [s]."""
        way = self.edge_m - (height_m - self.diameter_m / 2)
        return np.asarray(self.release_s + flight.fall_time_s(way, self.start_m_s, self.terminal_m_s))
