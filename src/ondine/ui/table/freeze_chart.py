"""Blur and ISO over power, and where both are allowed; the power is dragged."""

from __future__ import annotations

import math

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QWidget

from ondine.core.light.blur import Edge
from ondine.core.light.freeze import FreezeRow
from ondine.core.light.stops import nearest, power_label, powers
from ondine.core.setup import Light
from ondine.core.units import Quantity
from ondine.ui.kit.lettering import CENTRE, RIGHT, Lettering
from ondine.ui.kit.stand_in import Part, StandIns
from ondine.ui.kit.theme import BODY_PX, DAY, SMALL_PX, Theme, font

BLUR_DECADES = (0.1, 1000.0)
ISO_RANGE = (6.0, 102_400.0)


STOPS = Quantity("stops", 1, 1, 1 / 3, 1)


class FreezeChart(QWidget):
    """Left scale blur, right scale ISO; the shaded powers freeze and light. Emits `edited(power, gesture)`."""

    edited = Signal(float, str)
    released = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.theme: Theme = DAY
        self._rows: list[FreezeRow] = []
        self._edges: list[Edge] = []
        self._light = Light()
        self._power = 1.0
        self._dragging = False
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setCursor(Qt.CursorShape.SizeHorCursor)
        self.setAccessibleName("Blur and ISO over power")
        self.parts = StandIns(self)
        self.parts.changed.connect(lambda _, stops: self._set_stops(stops))

    def show_rows(self, rows: list[FreezeRow], edges: list[Edge], light: Light, power: float) -> None:
        """Show another table, from the least power up, and the power that is set."""
        self._rows, self._edges, self._light, self._power = rows, edges, light, power
        now = self._now()
        if now is not None:
            says = f"At {power_label(now.power)}: {now.worst_px:.1f} px, ISO {now.iso:.0f}."
            self.setAccessibleDescription(says)
        if not self._dragging and rows:
            spot = QPointF(self._x(power), self.height() / 2)
            self.parts.show_parts([Part("power", "Power, in stops of full", STOPS, math.log2(power), spot)])
        self.update()

    def _set_stops(self, stops: float) -> None:
        """Take the click of the dial that is nearest."""
        self.edited.emit(nearest(powers(self._rows[0].power), 2**stops).value, "heard power")
        self.released.emit()

    def _now(self) -> FreezeRow | None:
        return min(self._rows, key=lambda r: abs(math.log(r.power / self._power)), default=None)

    def _room(self) -> QRectF:
        return QRectF(self.rect()).adjusted(72, 120, -72, -64)

    def _x(self, power: float) -> float:
        least = self._rows[0].power
        return 72 + math.log2(power / least) / max(math.log2(1 / least), 1e-9) * (self.width() - 144)

    def _y(self, value: float, scale: tuple[float, float]) -> float:
        low, high = scale
        share = math.log(min(max(value, low), high) / low) / math.log(high / low)
        return self.height() - 64 - share * (self.height() - 184)

    def paintEvent(self, event: QPaintEvent) -> None:
        """Draw the allowed region, both scales, all edges, both limits, the power."""
        with QPainter(self) as p:
            p.fillRect(self.rect(), self.theme.colour("air"))
            if not self._rows:
                return
            p.setRenderHint(QPainter.RenderHint.Antialiasing)
            self._allowed(p)
            self._grid(p)
            self._curves(p)
            self._limits(p)
            now = self._now()
            assert now is not None
            x = self._x(self._power)
            p.setPen(QPen(self.theme.colour("light"), 3))
            p.drawLine(QPointF(x, self._room().top() - 6), QPointF(x, self._room().bottom()))
            p.setBrush(self.theme.colour("light"))
            p.drawPolygon(QPolygonF([QPointF(x - 7, self._room().top() - 16), QPointF(x + 7, self._room().top() - 16),
                                     QPointF(x, self._room().top() - 4)]))  # fmt: skip
            self._head(p, now)
            if self.hasFocus():
                p.setBrush(Qt.BrushStyle.NoBrush)
                p.setPen(QPen(self.theme.colour("ink"), 2))
                p.drawRect(self._room().adjusted(-4, -20, 4, 4))

    def _good(self, row: FreezeRow) -> bool:
        return row.worst_px <= self._light.blur_target_px * 1.001 and row.iso <= self._light.max_iso * 1.001

    def _allowed(self, p: QPainter) -> None:
        room = self._room()
        good = [row for row in self._rows if self._good(row)]
        if not good:
            return
        left, right = self._x(good[0].power), self._x(good[-1].power)
        p.fillRect(QRectF(left - 3, room.top(), max(right - left, 0) + 6, room.height()), self.theme.colour("water"))
        p.setPen(QPen(self.theme.colour("water_ink"), 1.4))
        for x in (left - 3, right + 3):
            p.drawLine(QPointF(x, room.top()), QPointF(x, room.bottom()))

    def _grid(self, p: QPainter) -> None:
        room = self._room()
        p.setFont(font(SMALL_PX))
        for stop in range(round(math.log2(self._rows[0].power)), 1):
            x = self._x(2.0**stop)
            p.setPen(QPen(self.theme.colour("faint"), 1))
            p.drawLine(QPointF(x, room.top()), QPointF(x, room.bottom()))
            Lettering(p, self.theme).write(
                QRectF(x - 30, room.bottom() + 6, 60, 18), power_label(2.0**stop), side=CENTRE
            )
        for value in (0.1, 1, 10, 100, 1000):
            y = self._y(value, BLUR_DECADES)
            p.setPen(QPen(self.theme.colour("faint"), 1))
            p.drawLine(QPointF(room.left(), y), QPointF(room.right(), y))
            Lettering(p, self.theme).write(QRectF(room.left() - 66, y - 9, 58, 18), f"{value:g} px", side=RIGHT)
        for iso in (12.5, 100, 800, 6400, 51_200):
            Lettering(p, self.theme).write(
                QRectF(room.right() + 8, self._y(iso, ISO_RANGE) - 9, 64, 18), f"ISO {iso:g}"
            )
        Lettering(p, self.theme).write(QRectF(room.right() - 200, room.bottom() + 28, 200, 18), "power", side=RIGHT)

    def _curves(self, p: QPainter) -> None:
        worst = [QPointF(self._x(r.power), self._y(r.low_px, BLUR_DECADES)) for r in self._rows]
        worst += [QPointF(self._x(r.power), self._y(r.high_px, BLUR_DECADES)) for r in reversed(self._rows)]
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(self.theme.colour("ink", 0.10))
        p.drawPolygon(QPolygonF(worst))
        taken: list[float] = []
        for index, edge in enumerate(self._edges):
            points = [QPointF(self._x(r.power), self._y(r.blurs_px[index], BLUR_DECADES)) for r in self._rows]
            p.setPen(QPen(self.theme.colour("ink"), 1.8))
            p.drawPolyline(QPolygonF(points))
            y = points[-1].y() - 18
            while any(abs(y - other) < 16 for other in taken):
                y += 16
            taken.append(y)
            Lettering(p, self.theme).write(QRectF(points[-1].x() - 130, y, 124, 16), edge.name, role="ink", side=RIGHT)
        p.setPen(QPen(self.theme.colour("light"), 2, Qt.PenStyle.DashLine))
        p.drawPolyline(QPolygonF([QPointF(self._x(r.power), self._y(r.iso, ISO_RANGE)) for r in self._rows]))
        first = self._rows[0]
        place = QRectF(self._x(first.power) + 8, self._y(first.iso, ISO_RANGE) - 20, 140, 16)
        Lettering(p, self.theme).write(place, "ISO needed", role="light_text")

    def _limits(self, p: QPainter) -> None:
        room = self._room()
        for value, scale, role in (
            (self._light.blur_target_px, BLUR_DECADES, "ink"),
            (float(self._light.max_iso), ISO_RANGE, "light"),
        ):
            y = self._y(value, scale)
            p.setPen(QPen(self.theme.colour(role), 1.2, Qt.PenStyle.DotLine))
            p.drawLine(QPointF(room.left(), y), QPointF(room.right(), y))

    def _head(self, p: QPainter, now: FreezeRow) -> None:
        facts = (
            (power_label(self._power), "power"),
            (f"1/{round(1 / now.duration.half_s, -2):.0f} s", "flash lasts"),
            (f"{now.worst_px:.1f} px" if now.worst_px < 10 else f"{now.worst_px:.0f} px", "worst blur"),
            (f"{now.iso:.0f}", "ISO needed"),
        )
        wide = (self.width() - 48) / len(facts)
        for index, (value, name) in enumerate(facts):
            role = "light_text" if index == 0 else "ink"
            room = QRectF(24 + index * wide, 6, wide, 60)
            Lettering(p, self.theme).figure(room, name, value, role=role, least=BODY_PX)

    # Hands

    def power_at(self, x: float) -> float:
        """Click of the dial that is nearest to a place."""
        room, least = self._room(), self._rows[0].power
        share = min(max((x - room.left()) / room.width(), 0.0), 1.0)
        return nearest(powers(least), least * 2 ** (share * math.log2(1 / least))).value

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Take the power that was pressed."""
        if self._rows:
            self._dragging = True
            self.edited.emit(self.power_at(event.position().x()), "drag power")

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """Drag it."""
        if self._dragging and self._rows:
            self.edited.emit(self.power_at(event.position().x()), "drag power")

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        """Let go."""
        self._dragging = False
        self.released.emit()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Left and right by a click of a third stop."""
        by = {Qt.Key.Key_Left: 1, Qt.Key.Key_Right: -1}.get(Qt.Key(event.key()))
        if by is None or not self._rows:
            super().keyPressEvent(event)
            return
        marks = powers(self._rows[0].power)
        index = marks.index(nearest(marks, self._power)) + by
        self.edited.emit(marks[min(max(index, 0), len(marks) - 1)].value, "nudge power")
