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

    @property
    def px_per_s(self) -> float:
        """How many pixels a second is long."""
        return (self.right - self.left) / (self.end_s - self.start_s)

    def time_s(self, x: float) -> float:
        """Time at a place."""
        return self.start_s + (x - self.left) / (self.right - self.left) * (self.end_s - self.start_s)

    def step_s(self, room_px: float = 56.0) -> float:
        """Return a round step (1, 2, 5 by tens of ms) whose ticks stand at least `room_px` apart."""
        least = room_px * (self.end_s - self.start_s) / max(self.right - self.left, 1.0)
        power = 10.0 ** math.floor(math.log10(least))
        return next(power * factor for factor in (1, 2, 5, 10) if power * factor >= least)


def stretched(height_m: Number) -> Number:
    """Where a height is drawn, before it is scaled to pixels; of 0 it is 0."""
    share: Number = np.arcsinh(height_m / STRETCH_M)
    return share


def height_of(share: float) -> float:
    """Return the height that is drawn there [m]: `stretched` the other way round."""
    return math.sinh(share) * STRETCH_M


@dataclass(frozen=True)
class HeightScale:
    """Heights over the water from `base_m` to `top_m`; the same stretch goes below. `base_y` and `top_y` are pixels."""

    base_y: float
    top_y: float
    top_m: float
    base_m: float = 0.0

    def y(self, height_m: Number) -> Number:
        """Place of a height, or of an array of heights."""
        base, top = stretched(self.base_m), stretched(self.top_m)
        share: Number = (stretched(height_m) - base) / (top - base)
        return self.base_y - share * (self.base_y - self.top_y)

    @property
    def shows_water(self) -> bool:
        """Whether the water's surface is in view."""
        return self.base_m <= 0.0

    def ticks_mm(self, room_px: float = 22.0) -> list[float]:
        """Return heights in view, the roundest first, whose places stand at least `room_px` apart [mm]."""
        found: list[float] = []
        for level in TICKS_MM:
            inside = [mm for mm in level if self.base_m * 1e3 < mm < self.top_m * 1e3]
            free = [mm for mm in inside if all(abs(self.y(mm / 1e3) - self.y(o / 1e3)) >= room_px for o in found)]
            found += free
            if len(free) < len(inside):
                # What is less round would fill the gaps only.
                break
        return found


TICKS_MM: tuple[tuple[float, ...], ...] = (
    (20, 50, 100, 200, 300, 500, 800, 1200, 2000),
    (10, 30, 40, 150, 250, 400, 600, 1000, 1500),
    (5, 15, 25, 35, 45, 60, 70, 80, 90, 120, 140, 160, 180, 350, 450),
    tuple(range(1, 60)),
)
"""The heights that can carry a number, the roundest first."""
