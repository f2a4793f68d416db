"""Who fires whom, and on the axis below: when the shutter is open, the sheet full, and the light there."""

from __future__ import annotations

import math

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QWidget

from ondine.core.setup import BenchKind, FlashFiredBy, Release
from ondine.core.timing.latency import Link, hit_share, sheet_jitter_s
from ondine.ui.kit.lettering import CENTRE, RIGHT, Lettering
from ondine.ui.kit.scales import TimeScale
from ondine.ui.kit.theme import BODY_PX, DAY, Theme
from ondine.ui.table.state import TableState

BOX_W, BOX_H = 104.0, 40.0


class ChainFigure(QWidget):
    """Boxes for devices, arrows for links with their lag; below, the instants that result."""

    def __init__(self) -> None:
        super().__init__()
        self.theme: Theme = DAY
        self._table: TableState | None = None
        self.setAccessibleName("What fires what")

    def show_table(self, table: TableState) -> None:
        """Show another table."""
        self._table = table
        self.setAccessibleDescription(table.prediction.latency.problem or "The light falls while the shutter is open.")
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        """Draw chain, axis, numbers."""
        if self._table is None:
            return
        with QPainter(self) as p:
            p.fillRect(self.rect(), self.theme.colour("air"))
            p.setRenderHint(QPainter.RenderHint.Antialiasing)
            self._chain(p)
            self._axis(p, QRectF(96, 330, self.width() - 130, 150))
            self._verdict(p, QRectF(24, 520, self.width() - 48, 120))

    # The chain

    def _chain(self, p: QPainter) -> None:
        assert self._table is not None
        setup, when = self._table.setup, self._table.prediction.latency
        t = setup.triggers
        by_hand = setup.box.in_use or self._table.kind is BenchKind.BY_HAND
        first = setup.box.name if setup.box.in_use else "Your hand" if by_hand else "Controller"
        step = (self.width() - 48 - BOX_W) / 3
        x = [24 + i * step for i in range(4)]
        top, middle, low = 40.0, 130.0, 220.0
        self._box(p, x[0], middle, first, bold=True)
        self._box(p, x[1], top, "Valve")
        valve = self._table.belief.lag_s
        self._arrow(p, x[0], middle, x[1], top, Link("valve", "drop", valve.mean, t.valve_jitter_s, "valve"), True)
        self._box(p, x[1], low, setup.camera.name)
        self._box(p, x[3], middle, setup.light.key.name, warm=True)
        links = list(when.shutter.links)
        told = "a hand opens it" if t.release is Release.HAND else ""
        joined = Link("to the shutter", "", when.shutter.lag_s, when.shutter.jitter_s, "")
        self._arrow(p, x[0], middle, x[1], low, joined, t.release is not Release.HAND)
        names = told or ", ".join(link.says for link in links)
        Lettering(p, self.theme).write(
            QRectF(x[1] - 30, low + BOX_H / 2 + 6, BOX_W + 60, 18), names, "soft_ink", side=CENTRE
        )
        radio = when.light.links[-1] if t.radio else Link("cable", "flash", 0.0, 0.0, "")
        if t.flash_fired_by is FlashFiredBy.CAMERA:
            self._arrow(p, x[1], low, x[3], middle, radio, True, warm=True)
        else:
            self._arrow(p, x[0], middle, x[3], middle, radio, True, warm=True)
        slaves = [unit.name for unit in setup.light.units if unit.slave]
        if slaves:
            self._box(p, x[3], low, ", ".join(slaves), warm=True)
            slave = Link("sees it", "", t.slave_lag_s, t.slave_jitter_s, "")
            self._arrow(p, x[3], middle, x[3], low, slave, True, warm=True)
        says = (
            "The camera fires the flash."
            if t.flash_fired_by is FlashFiredBy.CAMERA
            else "The controller fires the flash."
        )
        if by_hand:
            says = f"A hand dials {setup.box.name}; it counts for itself. {says.replace('controller', 'box')}"
        Lettering(p, self.theme).write(QRectF(24, 4, self.width() - 48, 18), says, "ink", bold=True)

    def _box(self, p: QPainter, x: float, y: float, words: str, bold: bool = False, warm: bool = False) -> None:
        room = QRectF(x, y - BOX_H / 2, BOX_W, BOX_H)
        p.setPen(QPen(self.theme.colour("light" if warm else "ink"), 2 if bold or warm else 1.4))
        p.setBrush(self.theme.colour("air"))
        p.drawRoundedRect(room, 20, 20)
        Lettering(p, self.theme).write(room, words, "ink", side=CENTRE, bold=bold)

    def _arrow(
        self, p: QPainter, x0: float, y0: float, x1: float, y1: float, link: Link, used: bool, warm: bool = False
    ) -> None:
        down = x0 == x1
        start = QPointF(x0 + BOX_W / 2, y0 + BOX_H / 2) if down else QPointF(x0 + BOX_W, y0)
        end = QPointF(x1 + BOX_W / 2, y1 - BOX_H / 2) if down else QPointF(x1, y1)
        style = Qt.PenStyle.SolidLine if used else Qt.PenStyle.DotLine
        p.setPen(QPen(self.theme.colour("light" if warm else "ink"), 1.8, style))
        p.drawLine(start, end)
        angle = math.atan2(end.y() - start.y(), end.x() - start.x())
        tips = [end - QPointF(math.cos(angle + turn), math.sin(angle + turn)) * 9 for turn in (-0.4, 0.4)]
        p.setBrush(self.theme.colour("light" if warm else "ink"))
        p.drawPolygon(QPolygonF([end, *tips]))
        if used:
            # Two thirds along: lines that start at one box have parted by then.
            at = start + (end - start) * (0.5 if y0 == y1 or down else 0.62)
            says = f"{link.says} {_lag(link)}"
            wide = p.fontMetrics().horizontalAdvance(says) + 14
            room = QRectF(at.x() - wide / 2, at.y() - 20 if y0 == y1 else at.y() - 9, wide, 18)
            if down:
                room.moveRight(at.x() - 6)
            p.fillRect(room, self.theme.colour("air"))
            Lettering(p, self.theme).write(room, says, "ink", side=CENTRE)

    # The axis

    def _axis(self, p: QPainter, room: QRectF) -> None:
        assert self._table is not None
        when, prediction = self._table.prediction.latency, self._table.prediction
        end = max(when.light_s * 1.25, when.open_from_s + 0.05, 0.05)

        def x(time_s: float) -> float:
            return room.left() + min(max(time_s / end, 0.0), 1.0) * room.width()

        lanes = [room.top() + i * room.height() / 3 for i in range(4)]
        p.setPen(QPen(self.theme.colour("faint"), 1))
        for y in lanes:
            p.drawLine(QPointF(room.left(), y), QPointF(room.right(), y))
        tall = room.height() / 3
        for lane, name in zip(lanes, ("shutter", "sheet full", "light"), strict=False):
            Lettering(p, self.theme).write(QRectF(8, lane, room.left() - 16, tall), name, "soft_ink", side=RIGHT)
        p.fillRect(QRectF(x(when.open_from_s), lanes[0] + 10, x(when.open_until_s) - x(when.open_from_s), tall - 20),
                   self.theme.colour("line", 0.45))  # fmt: skip
        for sheet in prediction.course.sheets:
            wide = max(x(sheet.full_until_s) - x(sheet.full_from_s), 2)
            p.fillRect(QRectF(x(sheet.full_from_s), lanes[1] + 10, wide, tall - 20), self.theme.drop(sheet.drop))
        spread = max(x(when.light_s + 2 * when.light_sd_s) - x(when.light_s - 2 * when.light_sd_s), 1.5)
        p.fillRect(
            QRectF(x(when.light_s) - spread / 2, lanes[2] + 8, spread, tall - 16), self.theme.colour("light", 0.5)
        )
        p.setPen(QPen(self.theme.colour("light"), 2.5))
        p.drawLine(QPointF(x(when.light_s), lanes[0]), QPointF(x(when.light_s), lanes[3]))
        Lettering(p, self.theme).write(QRectF(x(when.light_s) - 210, lanes[3] - tall, 200, tall),
                    f"{when.light_s * 1e3:.1f} ms", "light_text", side=RIGHT, bold=True)  # fmt: skip
        step = TimeScale(0.0, end, room.left(), room.right()).step_s()
        for index in range(int(end / step) + 1):
            place = QRectF(x(index * step) - 30, lanes[3] + 4, 60, 18)
            Lettering(p, self.theme).write(place, f"{index * step * 1e3:.0f}", "soft_ink", side=CENTRE)

    def _verdict(self, p: QPainter, room: QRectF) -> None:
        assert self._table is not None
        table, when = self._table, self._table.prediction.latency
        jitter = sheet_jitter_s(table.setup, when.light_sd_s)
        sheets = table.prediction.course.sheets
        share = hit_share(sheets[-1].full_until_s - sheets[-1].full_from_s, jitter) if sheets else None
        facts = [
            ("light after command", f"{(when.light_s - when.flash_command_s) * 1e3:.1f}", "ms"),
            ("jitter of light and valve", f"± {jitter * 1e3:.1f}", "ms"),
            ("shutter open before", f"{(when.light_s - when.open_from_s) * 1e3:.0f}", "ms"),
            ("full sheets it can hit", f"{share:.0%}" if share is not None else "no sheet", ""),
        ]
        wide = room.width() / len(facts)
        for index, (name, value, unit) in enumerate(facts):
            x = room.left() + index * wide
            Lettering(p, self.theme).figure(QRectF(x, room.top(), wide, 60), name, value, unit, least=BODY_PX)
        Lettering(p, self.theme).write(
            QRectF(room.left(), room.top() + 66, room.width(), 54), when.problem, "ink", bold=True, wrap=True
        )


def _lag(link: Link) -> str:
    if link.lag_s == 0 and link.jitter_s == 0:
        return ""
    digits = 1 if link.lag_s >= 1e-3 else 2
    return f"{link.lag_s * 1e3:.{digits}f} ± {link.jitter_s * 1e3:.{max(digits, 1)}f} ms"
