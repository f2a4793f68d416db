"""What of the flight chart can be taken hold of: a drop, the end of its opening, the flash; and what moving it does."""

from __future__ import annotations

from dataclasses import dataclass

from PySide6.QtCore import QPointF

from ondine.core.constants import US_PER_S
from ondine.core.forecast.prediction import Prediction
from ondine.core.timing.sequence import Sequence
from ondine.ui.kit.scales import HeightScale, TimeScale

GRAB_PX = 9
FLASH = -1
"""Stands for the flash where a drop's number could stand."""


@dataclass(frozen=True)
class Grip:
    """Something on the chart that can be taken hold of: a drop's start, its open time, or the flash."""

    what: int
    end: bool = False

    def value_us(self, sequence: Sequence) -> int:
        """Return the time of it in a sequence."""
        if self.what == FLASH:
            return sequence.flash_us
        pulse = sequence.drops[self.what]
        return pulse.end_us if self.end else pulse.start_us


def moved(grip: Grip, target_us: int, sequence: Sequence) -> Sequence:
    """Return a sequence in which a grip was drawn to a time."""
    if grip.what == FLASH:
        return sequence.with_flash(target_us)
    if grip.end:
        return sequence.with_open(grip.what, target_us - sequence.drops[grip.what].start_us)
    return sequence.with_start(grip.what, target_us)


def nudged(what: int, later_us: int, longer_us: int, sequence: Sequence) -> Sequence:
    """Return a sequence in which the flash or a drop is later, or a drop's opening longer."""
    if what == FLASH:
        return sequence.with_flash(sequence.flash_us + later_us)
    pulse = sequence.drops[what]
    if longer_us:
        return sequence.with_open(what, pulse.open_us + longer_us)
    return sequence.with_start(what, pulse.start_us + later_us)


@dataclass(frozen=True)
class Grips:
    """Finds what lies at a place of the chart. `valve_px`: top and foot of the valve's lane."""

    prediction: Prediction
    time: TimeScale
    height: HeightScale
    valve_px: tuple[float, float]

    def at(self, place: QPointF) -> Grip | None:
        """Return what can be taken hold of at a place."""
        x, y = place.x(), place.y()
        if self.valve_px[0] <= y <= self.valve_px[1]:
            pulse = self._pulse_at(x)
            if pulse is not None:
                return pulse
        if abs(x - self._x(self.prediction.sequence.flash_us)) <= GRAB_PX:
            return Grip(FLASH)
        return self._curve_at(x, y) if y < self.height.water_y else None

    def _pulse_at(self, x: float) -> Grip | None:
        drops = self.prediction.sequence.drops
        for index in reversed(range(len(drops))):
            left, right = self._x(drops[index].start_us), self._x(drops[index].end_us)
            if abs(x - right) <= GRAB_PX * 0.8 and x > (left + right) / 2:
                return Grip(index, end=True)
            if left - GRAB_PX <= x <= right + GRAB_PX:
                return Grip(index)
        return None

    def _curve_at(self, x: float, y: float) -> Grip | None:
        for curve in self.prediction.course.falls:
            near = abs(self.height.y(curve.height_m) - y) < GRAB_PX * 1.5
            if (near & (abs(self.time.x(curve.time_s) - x) < GRAB_PX)).any():
                return Grip(curve.drop)
        return None

    def _x(self, time_us: int) -> float:
        return self.time.x(time_us / US_PER_S)
