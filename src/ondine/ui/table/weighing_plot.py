"""Weighed volumes over open times, the line through them, and where it meets no flow: the dead time."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from ondine.core.table.weighing import Flow, Weighing
from ondine.ui.kit.theme import BODY_PX, DAY, SMALL_PX, Theme, font


class WeighingPlot(QWidget):
    """Draws what was weighed; before that, what will be seen here."""

    def __init__(self) -> None:
        super().__init__()
        self.theme: Theme = DAY
        self._weighings: list[Weighing] = []
        self._flow: Flow | None = None
        self._density = 1000.0
        self._rig_line = (0.0, 0.0)
        self.setAccessibleName("Volume of a drop over its open time")

    def show_flow(
        self, weighings: list[Weighing], flow: Flow | None, density_kg_m3: float, rig: tuple[float, float]
    ) -> None:
        """Show weighings, the fit, and the (flow, dead time) that the set-up goes by."""
        self._weighings, self._flow, self._density, self._rig_line = weighings, flow, density_kg_m3, rig
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        """Draw axes, the set-up's line, the fitted line, points with their errors."""
        with QPainter(self) as p:
            p.fillRect(self.rect(), self.theme.colour("air"))
            p.setRenderHint(QPainter.RenderHint.Antialiasing)
            room = QRectF(self.rect()).adjusted(64, 40, -32, -52)
            most_ms = max([40.0, *(w.open_us / 1000 for w in self._weighings)]) * 1.1
            most_ul = (
                max(self._volume_ul(self._rig_line, most_ms), *(self._point(w)[1] for w in self._weighings), 10) * 1.1
            )
            self._axes(p, room, most_ms, most_ul)
            self._line(p, room, most_ms, most_ul, self._rig_line, "soft_ink", Qt.PenStyle.DashLine)
            if self._flow is not None:
                found = (self._flow.flow_m3_s, self._flow.dead_time_s)
                self._line(p, room, most_ms, most_ul, found, "water_ink", Qt.PenStyle.SolidLine)
                at = self._place(room, most_ms, most_ul, max(found[1] * 1e3, 0), 0)
                p.setPen(QPen(self.theme.colour("ink"), 2))
                p.setBrush(self.theme.colour("air"))
                p.drawEllipse(at, 5, 5)
                p.setFont(font(SMALL_PX, bold=True))
                p.drawText(QRectF(at.x() + 48, at.y() - 24, 220, 18), f"dead time {found[1] * 1e3:.1f} ms")
            for w in self._weighings:
                ms, ul = self._point(w)
                at = self._place(room, most_ms, most_ul, ms, ul)
                error = w.error_g / w.pulses / self._density * 1e6 * room.height() / most_ul
                p.setPen(QPen(self.theme.colour("ink"), 1.6))
                p.drawLine(at - QPointF(0, max(error, 5)), at + QPointF(0, max(error, 5)))
                p.setBrush(self.theme.drop(0))
                p.drawEllipse(at, 5, 5)
                p.setFont(font(SMALL_PX))
                p.drawText(QRectF(at.x() - 130, at.y() - 24, 120, 18), Qt.AlignmentFlag.AlignRight, f"{ul:.1f} µL")
            if not self._weighings:
                p.setFont(font(BODY_PX))
                p.setPen(self.theme.colour("soft_ink"))
                says = "Each weighing becomes a point here.\nTwo open times make a line: its slope is the flow,\n"
                says += "its foot the dead time."
                p.drawText(room.adjusted(24, 24, -24, 0), Qt.AlignmentFlag.AlignLeft, says)

    def _axes(self, p: QPainter, room: QRectF, most_ms: float, most_ul: float) -> None:
        p.setFont(font(SMALL_PX))
        step = _step(most_ms)
        for index in range(int(most_ms / step) + 1):
            x = room.left() + index * step / most_ms * room.width()
            p.setPen(QPen(self.theme.colour("faint"), 1))
            p.drawLine(QPointF(x, room.top()), QPointF(x, room.bottom()))
            p.setPen(self.theme.colour("soft_ink"))
            place = QRectF(x - 30, room.bottom() + 6, 60, 18)
            p.drawText(place, Qt.AlignmentFlag.AlignCenter, f"{index * step:g}")
        step = _step(most_ul)
        for index in range(int(most_ul / step) + 1):
            y = room.bottom() - index * step / most_ul * room.height()
            p.setPen(QPen(self.theme.colour("faint"), 1))
            p.drawLine(QPointF(room.left(), y), QPointF(room.right(), y))
            p.setPen(self.theme.colour("soft_ink"))
            right = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
            p.drawText(QRectF(room.left() - 58, y - 9, 50, 18), right, f"{index * step:g}")
        axis = QRectF(room.right() - 200, room.bottom() + 26, 200, 18)
        p.drawText(axis, Qt.AlignmentFlag.AlignRight, "open time, ms")
        p.drawText(QRectF(room.left(), room.top() - 24, 360, 18), "volume of one drop, µL; dashed: the set-up's")

    def _line(
        self,
        p: QPainter,
        room: QRectF,
        most_ms: float,
        most_ul: float,
        line: tuple[float, float],
        role: str,
        style: Qt.PenStyle,
    ) -> None:
        start = self._place(room, most_ms, most_ul, max(line[1] * 1e3, 0), 0)
        end_ms = min(most_ms, line[1] * 1e3 + most_ul / max(line[0] * 1e6, 1e-9))
        p.setPen(QPen(self.theme.colour(role), 2, style))
        p.drawLine(start, self._place(room, most_ms, most_ul, end_ms, self._volume_ul(line, end_ms)))

    def _point(self, w: Weighing) -> tuple[float, float]:
        return w.open_us / 1000, w.grams / w.pulses / self._density * 1e6

    @staticmethod
    def _volume_ul(line: tuple[float, float], ms: float) -> float:
        return line[0] * 1e6 * max(ms - line[1] * 1e3, 0)

    @staticmethod
    def _place(room: QRectF, most_ms: float, most_ul: float, ms: float, ul: float) -> QPointF:
        return QPointF(room.left() + ms / most_ms * room.width(), room.bottom() - ul / most_ul * room.height())


def _step(most: float) -> float:
    """A round step that makes four to ten ticks."""
    return next(step for step in (1.0, 2.0, 5.0, 10.0, 20.0, 50.0, 100.0, 200.0, 500.0) if most / step <= 10)
