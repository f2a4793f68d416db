"""What of the flight chart can be taken hold of: drops, the ends of their openings, flashes, the camera's commands."""

from __future__ import annotations

from dataclasses import dataclass

from PySide6.QtCore import QPointF, QRectF

from ondine.core.constants import US_PER_S
from ondine.core.forecast.prediction import Prediction
from ondine.core.setup import Setup
from ondine.core.timing.items import Item, Kind, drop, flash, has, items_of, time_us
from ondine.core.timing.sequence import Sequence
from ondine.ui.bench.lanes import Lanes
from ondine.ui.kit.scales import HeightScale, TimeScale

GRAB_PX = 9


@dataclass(frozen=True)
class Grip:
    """Something on the chart that can be taken hold of: an item's time, or the end of a drop's opening."""

    item: Item
    end: bool = False

    def value_us(self, sequence: Sequence, setup: Setup) -> int:
        """Return the time of it in a sequence."""
        return sequence.drops[self.item.index].end_us if self.end else time_us(sequence, self.item, setup)


@dataclass(frozen=True)
class Grips:
    """Finds what lies at a place of the chart."""

    prediction: Prediction
    time: TimeScale
    height: HeightScale
    lanes: Lanes

    @property
    def _setup(self) -> Setup:
        return self.prediction.forecast.setup

    def at(self, place: QPointF) -> Grip | None:
        """Return what can be taken hold of at a place."""
        x, y = place.x(), place.y()
        if x < self.time.left - GRAB_PX:
            return None
        valve = self.lanes.valve_at(y)
        if valve is not None:
            pulse = self._pulse_at(x, valve)
            if pulse is not None:
                return pulse
        if self.lanes.top <= y <= self.lanes.top + self.lanes.px:
            command = self._command_at(x)
            if command is not None:
                return command
        away = [abs(x - self._x(lit.at_us)) for lit in self.prediction.sequence.flashes]
        if away and min(away) <= GRAB_PX:
            return Grip(flash(away.index(min(away))))
        return self._curve_at(x, y) if y < self.height.base_y else None

    def within(self, room: QRectF) -> frozenset[Item]:
        """Return the items whose bars in the lanes, or whose lines and curves in the air, a rectangle touches."""
        return frozenset(
            item for item in items_of(self.prediction.sequence, self._setup) if self._touches(item, room)
        )  # fmt: skip

    def _touches(self, item: Item, room: QRectF) -> bool:
        if item.kind is Kind.DROP:
            pulse = self.prediction.sequence.drops[item.index]
            left, right = self._x(pulse.start_us), self._x(pulse.end_us)
            bar = QRectF(left, self.lanes.valve_y(pulse.valve), max(right - left, 3), self.lanes.px)
            return room.intersects(bar) or self._curve_in(item, room)
        x = self._x(time_us(self.prediction.sequence, item, self._setup))
        if item.kind is Kind.FLASH:
            foot = self.lanes.output_y(self.prediction.sequence.flashes[item.index].output) + self.lanes.px
            return room.intersects(QRectF(x - 1, 0, 2, foot))
        return room.intersects(QRectF(x - 1, self.lanes.top, 2, self.lanes.px))

    def _curve_in(self, item: Item, room: QRectF) -> bool:
        for curve in self.prediction.course.falls:
            if curve.drop == item.index:
                xs, ys = self.time.x(curve.time_s), self.height.y(curve.height_m)
                inside = (xs > room.left()) & (xs < room.right()) & (ys > room.top()) & (ys < room.bottom())
                return bool(inside.any())
        return False

    def _pulse_at(self, x: float, valve: int) -> Grip | None:
        drops = self.prediction.sequence.drops
        for index in reversed([n for n, pulse in enumerate(drops) if pulse.valve == valve]):
            left, right = self._x(drops[index].start_us), self._x(drops[index].end_us)
            if abs(x - right) <= GRAB_PX * 0.8 and x > (left + right) / 2:
                return Grip(drop(index), end=True)
            if left - GRAB_PX <= x <= right + GRAB_PX:
                return Grip(drop(index))
        return None

    def _command_at(self, x: float) -> Grip | None:
        """The shutter's opening, or the mark of another command to the camera."""
        sequence = self.prediction.sequence
        for kind in (Kind.MIRROR, Kind.HALF_PRESS, Kind.SHUTTER):
            item = Item(kind)
            if has(sequence, item, self._setup) and abs(x - self._x(time_us(sequence, item, self._setup))) <= GRAB_PX:
                return Grip(item)
        return None

    def _curve_at(self, x: float, y: float) -> Grip | None:
        for curve in self.prediction.course.falls:
            near = abs(self.height.y(curve.height_m) - y) < GRAB_PX * 1.5
            if (near & (abs(self.time.x(curve.time_s) - x) < GRAB_PX)).any():
                return Grip(drop(curve.drop))
        return None

    def _x(self, at_us: int) -> float:
        return self.time.x(at_us / US_PER_S)
