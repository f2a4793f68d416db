"""What of the flight chart can be taken hold of: a drop, the end of its opening, a flash; and what moving it does.

A drop is known by its number from 0; flashes count down from -1.
"""

from __future__ import annotations

from dataclasses import dataclass

from PySide6.QtCore import QPointF

from ondine.core.constants import US_PER_S
from ondine.core.forecast.prediction import Prediction
from ondine.core.timing.limits import flash_name
from ondine.core.timing.sequence import Sequence
from ondine.ui.bench.lanes import Lanes
from ondine.ui.kit.scales import HeightScale, TimeScale

GRAB_PX = 9
FIRST_FLASH = -1


def flash_of(what: int) -> int | None:
    """Return the number of the flash that is meant, from 0; None for a drop."""
    return -1 - what if what < 0 else None


def name_of(what: int, sequence: Sequence) -> str:
    """Call a drop or a flash as people do."""
    flash = flash_of(what)
    return f"drop {what + 1}" if flash is None else flash_name(sequence, flash).lower()


def there_is(what: int, sequence: Sequence) -> bool:
    """Whether a sequence has this drop or flash."""
    flash = flash_of(what)
    return what < len(sequence.drops) if flash is None else flash < len(sequence.flashes)


@dataclass(frozen=True)
class Grip:
    """Something on the chart that can be taken hold of: a drop's start, its open time, or a flash."""

    what: int
    end: bool = False

    def value_us(self, sequence: Sequence) -> int:
        """Return the time of it in a sequence."""
        flash = flash_of(self.what)
        if flash is not None:
            return sequence.flashes[flash].at_us
        pulse = sequence.drops[self.what]
        return pulse.end_us if self.end else pulse.start_us


def moved(grip: Grip, target_us: int, sequence: Sequence) -> Sequence:
    """Return a sequence in which a grip was drawn to a time."""
    flash = flash_of(grip.what)
    if flash is not None:
        return sequence.with_flash(flash, target_us)
    if grip.end:
        return sequence.with_open(grip.what, target_us - sequence.drops[grip.what].start_us)
    return sequence.with_start(grip.what, target_us)


def nudged(what: int, later_us: int, longer_us: int, sequence: Sequence) -> Sequence:
    """Return a sequence in which a flash or a drop is later, or a drop's opening longer."""
    flash = flash_of(what)
    if flash is not None:
        return sequence.with_flash(flash, sequence.flashes[flash].at_us + later_us)
    pulse = sequence.drops[what]
    if longer_us:
        return sequence.with_open(what, pulse.open_us + longer_us)
    return sequence.with_start(what, pulse.start_us + later_us)


@dataclass(frozen=True)
class Grips:
    """Finds what lies at a place of the chart."""

    prediction: Prediction
    time: TimeScale
    height: HeightScale
    lanes: Lanes

    def at(self, place: QPointF) -> Grip | None:
        """Return what can be taken hold of at a place."""
        x, y = place.x(), place.y()
        valve = self.lanes.valve_at(y)
        if valve is not None:
            pulse = self._pulse_at(x, valve)
            if pulse is not None:
                return pulse
        away = [abs(x - self._x(flash.at_us)) for flash in self.prediction.sequence.flashes]
        if away and min(away) <= GRAB_PX:
            return Grip(FIRST_FLASH - away.index(min(away)))
        return self._curve_at(x, y) if y < self.height.water_y else None

    def _pulse_at(self, x: float, valve: int) -> Grip | None:
        drops = self.prediction.sequence.drops
        for index in reversed([n for n, pulse in enumerate(drops) if pulse.valve == valve]):
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
