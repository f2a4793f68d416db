"""Draws the electronics of the flight chart: pulses, shutter and flashes in their lanes."""

from __future__ import annotations

from dataclasses import dataclass

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QBrush, QPainter, QPen, QPolygonF

from ondine.core.constants import US_PER_S
from ondine.core.forecast.prediction import Prediction
from ondine.core.timing.limits import flash_label
from ondine.core.timing.sequence import FlashPulse, Pulse
from ondine.ui.bench.grips import FIRST_FLASH
from ondine.ui.bench.lanes import NAMED_PX, Faults, Lanes
from ondine.ui.kit.lettering import CENTRE, LEFT, RIGHT, text_width, write
from ondine.ui.kit.scales import TimeScale
from ondine.ui.kit.theme import Theme

PULSE_PX, SHUTTER_PX = 36.0, 24.0
"""The highest bars; a higher lane leaves air round them."""


@dataclass
class LanePainter:
    """One painting of the lanes; `held` are what is selected and what lies under the cursor, as `grips` counts."""

    painter: QPainter
    area: QRectF
    time: TimeScale
    lanes: Lanes
    faults: Faults
    theme: Theme
    prediction: Prediction
    held: tuple[int | None, ...]

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
        chosen, inset = index in self.held, self.inset(PULSE_PX)
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
        bar = QRectF(opens, self.lanes.top + inset, closes - opens, self.lanes.px - 2 * inset)
        self.painter.fillRect(bar, self.theme.colour("line", 0.45))
        if self.faults.camera:
            self._cross_out(bar)

    def paint_flashes(self) -> None:
        """Draw the flashes from their names down to their lanes."""
        labels = self.flash_labels()
        for index, flash in enumerate(self.prediction.sequence.flashes):
            self._flash_line(index, flash, *labels[index])

    def _flash_line(self, index: int, flash: FlashPulse, room: QRectF, text: str) -> None:
        p = self.painter
        x = self.time.x(flash.at_us / US_PER_S)
        if not self.time.left <= x <= self.time.right + 1:
            return
        chosen = FIRST_FLASH - index in self.held
        lane = self.lanes.output_y(flash.output)
        broken = Qt.PenStyle.DashLine if index in self.faults.flashes else Qt.PenStyle.SolidLine
        p.setPen(QPen(self.theme.colour("light"), 3 if chosen else 2, broken))
        p.drawLine(QPointF(x, 14), QPointF(x, lane + self.lanes.px))
        p.drawLine(QPointF(x, lane + 0.15 * self.lanes.px), QPointF(x, lane + 0.85 * self.lanes.px))
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(self.theme.colour("light"))
        rays = QPolygonF([QPointF(x - 7, 4), QPointF(x + 7, 4), QPointF(x + 3, 14), QPointF(x, 20), QPointF(x - 3, 14)])
        p.drawPolygon(rays)
        p.setPen(self.theme.colour("light_text"))
        write(p, room, text, RIGHT if room.x() < x else LEFT)

    def flash_labels(self) -> list[tuple[QRectF, str]]:
        """What each flash is called and where: beside its line, lower where another one's name or line is."""
        flashes = self.prediction.sequence.flashes
        places = [self.time.x(flash.at_us / US_PER_S) for flash in flashes]
        found: list[tuple[QRectF, str]] = []
        for index, (x, flash) in enumerate(zip(places, flashes, strict=True)):
            text = f"{flash_label(self.prediction.sequence, index)} {flash.at_us / 1000:.1f} ms"
            wide = text_width(text) + 4
            taken = [room for room, _ in found]
            taken += [QRectF(other - 8, 0, 16, self.lanes.foot) for other in places]
            # Beside its own line if there is room, else beside another one: it has a number.
            beside = [x, *sorted((other for other in places if other != x), key=lambda other: abs(other - x))]
            sides = [QRectF(at + way, 2, wide, 16) for at in beside for way in (12, -12 - wide)]
            rooms = [side.translated(0, 16 * row) for row in range(len(flashes)) for side in sides]
            rooms = [room for room in rooms if room.right() <= self.area.right() and room.left() >= self.time.left]
            free = [room for room in rooms if not any(room.intersects(other) for other in taken)]
            found.append(((free or rooms or sides)[0], text))
        return found
