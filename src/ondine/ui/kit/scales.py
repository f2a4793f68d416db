"""From times and heights to places on the chart, and back."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import TypeVar

import numpy as np

Number = TypeVar("Number", float, np.ndarray)

STRETCH_M = 0.04
"""Heights below this are drawn nearly to scale, those above are drawn together: the splash needs the room."""


@dataclass(frozen=True)
class TimeScale:
    """Times from `start_s` to `end_s` on pixels `left` to `right`."""

    start_s: float
    end_s: float
    left: float
    right: float

    def x(self, time_s: Number) -> Number:
        """Place of a time, or of an array of times."""
        return self.left + (time_s - self.start_s) / (self.end_s - self.start_s) * (self.right - self.left)

    def time_s(self, x: float) -> float:
        """Time at a place."""
        return self.start_s + (x - self.left) / (self.right - self.left) * (self.end_s - self.start_s)

    def step_s(self, room_px: float = 56.0) -> float:
        """Return a round step (1, 2, 5 by tens of ms) whose ticks stand at least `room_px` apart."""
        least = room_px * (self.end_s - self.start_s) / max(self.right - self.left, 1.0)
        power = 10.0 ** math.floor(math.log10(least))
        return next(power * factor for factor in (1, 2, 5, 10) if power * factor >= least)


@dataclass(frozen=True)
class HeightScale:
    """Heights over the water; the same stretch goes below it. `water_y` and `top_y` are pixels."""

    water_y: float
    top_y: float
    top_m: float

    def y(self, height_m: Number) -> Number:
        """Place of a height, or of an array of heights."""
        share: Number = np.arcsinh(height_m / STRETCH_M) / math.asinh(self.top_m / STRETCH_M)
        return self.water_y - share * (self.water_y - self.top_y)
