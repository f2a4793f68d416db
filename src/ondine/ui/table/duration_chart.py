"""How long a unit shines over its powers: the manual's points, the curve, and how sure it is."""

from __future__ import annotations

import math

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QWidget

from ondine.core.light.flash import curve_of, duration_of
from ondine.core.light.stops import power_label
from ondine.core.setup import Flash
from ondine.ui.kit.foresight import Foresight
from ondine.ui.kit.theme import BODY_PX, DAY, LARGE_PX, SMALL_PX, Theme, font

POINTS = 60
PICTURE_SHARE = 0.32
"""Height of the foreseen picture, as a share of the chart's."""


class DurationChart(QWidget):
    """Both axes by doublings: a stop is a stop, anywhere. In a corner, what the picture will be in this light."""

    def __init__(self, foresight: Foresight) -> None:
        super().__init__()
        self.theme: Theme = DAY
        self._foresight = foresight
        foresight.changed.connect(self.update)
        self._flash = Flash()
        self.setAccessibleName("Duration over power")

    def show_flash(self, flash: Flash) -> None:
        """Show another unit."""
        self._flash = flash
        now = duration_of(flash, flash.power)
        self.setAccessibleDescription(f"At {power_label(flash.power)} the flash lasts {now.half_s * 1e6:.0f} µs.")
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        """Draw grid, band, curve, points, and the power that is set."""
        flash, curve = self._flash, curve_of(self._flash)
        room = QRectF(self.rect()).adjusted(84, 120, -40, -60)
        least = math.log2(flash.least_power)
        shares = [least + (0 - least) * i / (POINTS - 1) for i in range(POINTS)]
        found = [duration_of(flash, 2**s, curve) for s in shares]
        low = math.floor(math.log2(min(d.low_s for d in found)))
        high = math.ceil(math.log2(max(d.high_s for d in found)))

        def place(stops: float, seconds: float) -> QPointF:
            x = room.left() + (stops - least) / max(-least, 1e-9) * room.width()
            return QPointF(x, room.bottom() - (math.log2(seconds) - low) / (high - low) * room.height())

        with QPainter(self) as p:
            p.fillRect(self.rect(), self.theme.colour("air"))
            p.setRenderHint(QPainter.RenderHint.Antialiasing)
            self._grid(p, room, least, low, high)
            band = [place(s, d.low_s) for s, d in zip(shares, found, strict=True)]
            band += [place(s, d.high_s) for s, d in zip(shares[::-1], found[::-1], strict=True)]
            p.setPen(Qt.PenStyle.NoPen)
            p.setBrush(self.theme.colour("light", 0.16))
            p.drawPolygon(QPolygonF(band))
            p.setPen(QPen(self.theme.colour("light"), 2.4))
            p.drawPolyline(QPolygonF([place(s, d.half_s) for s, d in zip(shares, found, strict=True)]))
            p.setPen(QPen(self.theme.colour("soft_ink"), 1.4, Qt.PenStyle.DashLine))
            p.drawPolyline(QPolygonF([place(s, float(curve.duration_s(2**s))) for s in shares]))
            p.setPen(QPen(self.theme.colour("ink"), 1.6))
            p.setBrush(self.theme.colour("air"))
            for point in flash.durations:
                p.drawEllipse(place(math.log2(point.power), point.duration_s), 5, 5)
            now = duration_of(flash, flash.power, curve)
            at = place(math.log2(flash.power), now.half_s)
            p.setPen(QPen(self.theme.colour("light"), 2.4))
            p.drawLine(QPointF(at.x(), room.top()), QPointF(at.x(), room.bottom()))
            # Under the curve, where short flashes leave room.
            tall = PICTURE_SHARE * room.height()
            corner = QRectF(room.right() - 1.5 * tall - 12, room.bottom() - tall - 12, 1.5 * tall, tall)
            self._foresight.paint(p, self, self._foresight.fitted(corner), self.theme)
            self._head(p, now.half_s, now.low_s, now.high_s)

    def _grid(self, p: QPainter, room: QRectF, least: float, low: int, high: int) -> None:
        p.setFont(font(SMALL_PX))
        for stop in range(round(least), 1):
            x = room.left() + (stop - least) / max(-least, 1e-9) * room.width()
            p.setPen(QPen(self.theme.colour("faint"), 1))
            p.drawLine(QPointF(x, room.top()), QPointF(x, room.bottom()))
            p.setPen(self.theme.colour("soft_ink"))
            p.drawText(QRectF(x - 30, room.bottom() + 6, 60, 18), Qt.AlignmentFlag.AlignCenter, power_label(2.0**stop))
        for step in range(low, high + 1):
            y = room.bottom() - (step - low) / (high - low) * room.height()
            p.setPen(QPen(self.theme.colour("faint"), 1))
            p.drawLine(QPointF(room.left(), y), QPointF(room.right(), y))
            p.setPen(self.theme.colour("soft_ink"))
            right = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
            p.drawText(QRectF(room.left() - 80, y - 9, 72, 18), right, _seconds(2.0**step))
        p.drawText(QRectF(room.right() - 200, room.bottom() + 28, 200, 18), Qt.AlignmentFlag.AlignRight, "power")
        says = "duration t0.5: rings from the manual, dashed the curve of two parameters"
        p.drawText(QRectF(room.left(), room.top() - 24, room.width(), 18), says)

    def _head(self, p: QPainter, half: float, low: float, high: float) -> None:
        p.setPen(self.theme.colour("light_text"))
        p.setFont(font(LARGE_PX, bold=True))
        p.drawText(QRectF(24, 12, 460, 40), Qt.AlignmentFlag.AlignVCenter, _seconds(half))
        p.setPen(self.theme.colour("soft_ink"))
        p.setFont(font(BODY_PX))
        says = (
            f"at {power_label(self._flash.power)}: {half * 1e6:.0f} µs, likely {low * 1e6:.0f} to {high * 1e6:.0f} µs"
        )
        p.drawText(QRectF(24, 54, self.width() - 48, 20), says)


def _seconds(value: float) -> str:
    """Write a short time as photographers do."""
    return f"1/{1 / value:.3g} s" if 1 / value < 1000 else f"1/{round(1 / value, -2):.0f} s"
