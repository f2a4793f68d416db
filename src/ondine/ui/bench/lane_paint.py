"""Draws the electronics of the flight chart: pulses, shutter and flashes in their lanes."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import lru_cache

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QBrush, QPainter, QPen, QPolygonF

from ondine.core.constants import US_PER_S
from ondine.core.forecast.prediction import Prediction
from ondine.core.timing.items import CAMERA_FIELDS, SHUTTER, Item, Kind, drop, flash, time_us
from ondine.core.timing.limits import flash_label
from ondine.core.timing.locks import Locks
from ondine.core.timing.sequence import FlashPulse, Pulse
from ondine.ui.bench.lanes import NAMED_PX, Faults, Lanes
from ondine.ui.kit.lettering import CENTRE, LEFT, RIGHT, text_width, write
from ondine.ui.kit.scales import TimeScale
from ondine.ui.kit.theme import Theme


@dataclass(frozen=True)
class Tie:
    """A lock as it is drawn: from the time of its event to that of its item."""

    item: Item
    event_us: int
    item_us: int


def ties_of(locks: Locks, prediction: Prediction) -> tuple[Tie, ...]:
    """Return the locks as they are drawn on a prediction."""
    found = []
    for lock in locks:
        at_us = time_us(prediction.sequence, lock.item, prediction.forecast.setup)
        found.append(Tie(lock.item, at_us - lock.offset_us, at_us))
    return tuple(found)


def in_ms(at_us: int) -> str:
    """Write a time from the trigger."""
    return f"{at_us / 1000:.1f} ms"


FIRST_ROW_PX, ROW_PX = 2.0, 16.0
"""Where the names of flashes stand, and how high one is."""

NOZZLE_ROOM_PX = 110.0, 24.0
"""The corner in which the nozzle's height is written."""

PULSE_PX, SHUTTER_PX = 36.0, 24.0
"""The highest bars; a higher lane leaves air round them."""


@dataclass
class LanePainter:
    """One painting of the lanes; `held` are what is selected and what lies under the cursor."""

    painter: QPainter
    area: QRectF
    time: TimeScale
    lanes: Lanes
    faults: Faults
    theme: Theme
    prediction: Prediction
    held: frozenset[Item]
    ties: tuple[Tie, ...] = ()
    tells: Callable[[int], str] = in_ms
    """Writes the time of a flash, as it is counted."""

    def paint_lanes(self) -> None:
        """Draw the lines between the lanes."""
        self.painter.setPen(QPen(self.theme.colour("faint"), 1))
        for row in range(self.lanes.rows + 1):
            y = self.lanes.top + self.lanes.px * row
            self.painter.drawLine(QPointF(self.time.left, y), QPointF(self.time.right, y))

    def paint_pulse(self, index: int, pulse: Pulse) -> None:
        """Draw one opening of a valve in its lane."""
        p, valve, tall = self.painter, self.lanes.valve_y(pulse.valve), self.lanes.px
        left, right = self.time.x(pulse.start_us / US_PER_S), self.time.x(pulse.end_us / US_PER_S)
        chosen, inset = drop(index) in self.held, self.inset(PULSE_PX)
        p.setPen(QPen(self.theme.colour("ink"), 2) if chosen else Qt.PenStyle.NoPen)
        p.setBrush(self.theme.drop(index))
        p.drawRoundedRect(QRectF(left, valve + inset, max(right - left, 3), tall - 2 * inset), 2, 2)
        p.setPen(QPen(self.theme.colour("air"), 1))
        if index in self.faults.drops:
            self._cross_out(QRectF(left, valve + inset, max(right - left, 3), tall - 2 * inset))
        elif right - left > 16 and tall >= NAMED_PX:
            write(p, QRectF(left, valve, right - left, tall), str(index + 1), CENTRE)

    def _cross_out(self, room: QRectF) -> None:
        """Mark what cannot be fired so: hatched, and with a cross over it."""
        p = self.painter
        p.fillRect(room, QBrush(self.theme.colour("air"), Qt.BrushStyle.BDiagPattern))
        middle, arm = room.center(), QPointF(4, 4)
        for role, wide in (("air", 5), ("ink", 2)):
            p.setPen(QPen(self.theme.colour(role), wide))
            p.drawLine(middle - arm, middle + arm)
            p.drawLine(middle + QPointF(-4, 4), middle + QPointF(4, -4))

    def inset(self, most_px: float) -> float:
        """How far a bar stands off the edges of its lane."""
        return max(0.1 * self.lanes.px, (self.lanes.px - most_px) / 2)

    def paint_names(self) -> None:
        """Write what the lanes are called."""
        for row, name in enumerate(self.lanes.names()):
            y = self.lanes.top + self.lanes.px * (row + 0.5)
            self.painter.setPen(self.theme.colour("soft_ink"))
            write(self.painter, QRectF(0, y - 8, self.time.left - 6, 16), name, RIGHT)

    def paint_shutter(self) -> None:
        """Draw how long the shutter is open."""
        when, right = self.prediction.latency, self.time.right
        opens = min(max(self.time.x(when.open_from_s), self.time.left), right)
        closes = min(max(self.time.x(when.open_until_s), opens), right)
        inset = self.inset(SHUTTER_PX)
        if SHUTTER in self.held and opens > self.time.left:
            self.painter.setPen(QPen(self.theme.colour("ink"), 3))
            self.painter.drawLine(
                QPointF(opens, self.lanes.top + 1), QPointF(opens, self.lanes.top + self.lanes.px - 1)
            )  # fmt: skip
        bar = QRectF(opens, self.lanes.top + inset, closes - opens, self.lanes.px - 2 * inset)
        self.painter.fillRect(bar, self.theme.colour("line", 0.45))
        if self.faults.camera:
            self._cross_out(bar)

    def paint_flashes(self) -> None:
        """Draw the flashes from their names down to their lanes."""
        labels = self.flash_labels()
        for index, lit in enumerate(self.prediction.sequence.flashes):
            self._flash_line(index, lit, labels.get(index))

    def _flash_line(self, index: int, lit: FlashPulse, label: tuple[QRectF, str] | None) -> None:
        p = self.painter
        x = self.time.x(lit.at_us / US_PER_S)
        if not self.time.left <= x <= self.time.right + 1:
            self._point_out(x)
            return
        chosen = flash(index) in self.held
        lane = self.lanes.output_y(lit.output)
        broken = Qt.PenStyle.DashLine if index in self.faults.flashes else Qt.PenStyle.SolidLine
        p.setPen(QPen(self.theme.colour("light"), 3 if chosen else 2, broken))
        p.drawLine(QPointF(x, 14), QPointF(x, lane + self.lanes.px))
        p.drawLine(QPointF(x, lane + 0.15 * self.lanes.px), QPointF(x, lane + 0.85 * self.lanes.px))
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(self.theme.colour("light"))
        rays = QPolygonF([QPointF(x - 7, 4), QPointF(x + 7, 4), QPointF(x + 3, 14), QPointF(x, 20), QPointF(x - 3, 14)])
        p.drawPolygon(rays)
        if label is not None:
            room, text = label
            if room.top() > FIRST_ROW_PX:
                # Curves may run here.
                p.fillRect(room, self.theme.colour("air", 0.85))
            p.setPen(self.theme.colour("light_text"))
            write(p, room, text, RIGHT if room.x() < x else LEFT)

    def _point_out(self, x: float) -> None:
        """Point to where a flash lies that is out of view."""
        edge, way = (self.time.left, -1) if x < self.time.left else (self.time.right, 1)
        tip = QPointF(edge + 10 * way, 10)
        self.painter.setPen(Qt.PenStyle.NoPen)
        self.painter.setBrush(self.theme.colour("light"))
        self.painter.drawPolygon(QPolygonF([tip, QPointF(edge, 4), QPointF(edge, 16)]))

    def flash_labels(self) -> dict[int, tuple[QRectF, str]]:
        """What each flash in view is called and where: beside its line, lower where another one's name or line is."""
        sequence, left, right = self.prediction.sequence, self.time.left, self.time.right + 1
        places = {index: self.time.x(lit.at_us / US_PER_S) for index, lit in enumerate(sequence.flashes)}
        seen = [index for index, x in places.items() if left <= x <= right]
        texts = [f"{flash_label(sequence, index)} {self.tells(sequence.flashes[index].at_us)}" for index in seen]
        wides = tuple(text_width(text) + 4 for text in texts)
        rooms = _rooms_beside(tuple(places[index] for index in seen), wides, left, self.area.right(), self.lanes.foot)
        return dict(zip(seen, zip(rooms, texts, strict=True), strict=True))

    def paint_commands(self) -> None:
        """Draw when mirror and half press are asked for, in the shutter's lane."""
        camera, p = self.prediction.sequence.camera, self.painter
        for kind in (Kind.MIRROR, Kind.HALF_PRESS):
            at_us = getattr(camera, CAMERA_FIELDS[kind])
            x = self.time.left - 1 if at_us is None else self.time.x(at_us / US_PER_S)
            if not self.time.left <= x <= self.time.right:
                continue
            chosen = Item(kind) in self.held
            p.setPen(QPen(self.theme.colour("ink"), 3 if chosen else 1.5))
            p.drawLine(QPointF(x, self.lanes.top + 1), QPointF(x, self.lanes.top + self.lanes.px - 1))
            if self.lanes.px >= NAMED_PX:
                middle = self.lanes.top + self.lanes.px / 2
                write(p, QRectF(x + 4, middle - 8, text_width(str(kind)) + 4, 16), str(kind), LEFT)

    def paint_ties(self) -> None:
        """Draw what is locked: a line from its event to the item, with a knot at the event."""
        p, sequence = self.painter, self.prediction.sequence
        p.setPen(QPen(self.theme.colour("ink"), 1.5, Qt.PenStyle.DotLine))
        p.setBrush(self.theme.colour("ink"))
        for tie in self.ties:
            start, end = self.time.x(tie.event_us / US_PER_S), self.time.x(tie.item_us / US_PER_S)
            if tie.item.kind is Kind.DROP:
                y = self.lanes.valve_y(sequence.drops[tie.item.index].valve)
            elif tie.item.kind is Kind.FLASH:
                y = self.lanes.output_y(sequence.flashes[tie.item.index].output)
            else:
                y = self.lanes.top
            middle = y + self.lanes.px / 2
            p.drawLine(QPointF(start, middle), QPointF(end, middle))
            p.drawEllipse(QPointF(start, middle), 2.5, 2.5)


@lru_cache(maxsize=4)
def _rooms_beside(
    places: tuple[float, ...], wides: tuple[float, ...], left: float, right: float, foot: float
) -> tuple[QRectF, ...]:
    """Return a room for the name of each line: beside its own if there is room, else beside another one, for it has a
    number. Asked for in every frame, and seldom another.
    """
    found: list[QRectF] = []
    lines = [QRectF(x - 8, 0, 16, foot) for x in places]
    for x, wide in zip(places, wides, strict=True):
        taken = [QRectF(left, 0, *NOZZLE_ROOM_PX), *found, *lines]
        others = sorted((other for other in places if other != x), key=lambda other: abs(other - x))
        sides = [QRectF(at + way, FIRST_ROW_PX, wide, ROW_PX) for at in (x, *others) for way in (12, -12 - wide)]
        rooms = [side.translated(0, ROW_PX * row) for row in range(len(places)) for side in sides]
        rooms = [room for room in rooms if room.right() <= right and room.left() >= left]
        free = [room for room in rooms if not any(room.intersects(other) for other in taken)]
        found.append((free or rooms or sides)[0])
    return tuple(found)
