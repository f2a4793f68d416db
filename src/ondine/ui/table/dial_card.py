"""The dial card: what a hand sets on its box, to be read across the room."""

from __future__ import annotations

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QColor, QFont, QFontMetricsF, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from ondine.core.timing.dials import Dial
from ondine.ui.kit.theme import BODY_PX, DAY, FAMILY, SMALL_PX, Theme, font

LARGEST_PX = 150


class DialCard(QWidget):
    """As large as its room allows: the card is read from where the box stands (docs/decisions/009)."""

    def __init__(self) -> None:
        super().__init__()
        self.theme: Theme = DAY
        self._dials: tuple[Dial, ...] = ()
        self._changed: tuple[bool, ...] = ()
        self._title, self._foot, self._problem = "", "", ""
        self.setAccessibleName("Dial card")

    def show_dials(
        self, title: str, dials: tuple[Dial, ...], changed: tuple[bool, ...], foot: str, problem: str = ""
    ) -> None:
        """Show dials, which of them to turn, and a line below; or why there are none."""
        self._title, self._dials, self._changed = title, dials, changed
        self._foot, self._problem = foot, problem
        spoken = ", ".join(f"{d.name} {d.set_us / 1000:g} ms" for d in dials)
        self.setAccessibleDescription(problem or spoken)
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        """Draw a row for each dial; those to turn carry a bar and an arrow."""
        with QPainter(self) as p:
            p.fillRect(self.rect(), self.theme.colour("air"))
            p.setRenderHint(QPainter.RenderHint.Antialiasing)
            room = QRectF(self.rect()).adjusted(32, 16, -32, -16)
            p.setFont(font(BODY_PX, bold=True))
            p.setPen(self.theme.colour("ink"))
            p.drawText(room, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignTop, self._title)
            foot = QRectF(room.left(), room.bottom() - 40, room.width(), 40)
            p.setFont(font(SMALL_PX))
            p.setPen(self.theme.colour("soft_ink"))
            p.drawText(foot, int(Qt.TextFlag.TextWordWrap | Qt.AlignmentFlag.AlignVCenter), self._foot)
            middle = room.adjusted(0, 32, 0, -48)
            if self._problem:
                p.setFont(font(BODY_PX, bold=True))
                p.setPen(self.theme.colour("ink"))
                p.drawText(middle, int(Qt.TextFlag.TextWordWrap | Qt.AlignmentFlag.AlignCenter), self._problem)
                return
            self._rows(p, middle)

    def _rows(self, p: QPainter, room: QRectF) -> None:
        tall = room.height() / max(len(self._dials), 1)
        pixels = int(min(LARGEST_PX, 0.82 * tall, room.width() / 6.2))
        for index, dial in enumerate(self._dials):
            line = QRectF(room.left(), room.top() + index * tall, room.width(), tall)
            turned = index < len(self._changed) and self._changed[index]
            if turned:
                p.fillRect(QRectF(line.left() - 20, line.top() + 6, 8, tall - 12), self.theme.colour("ink"))
            self._text(p, line, dial.name, round(pixels * 0.5), self._ink(dial), Qt.AlignmentFlag.AlignLeft)
            value = f"{dial.set_us / 1000:g}"
            unit_px = max(round(pixels * 0.3), SMALL_PX)
            unit = QFontMetricsF(_plain(unit_px)).horizontalAdvance(" ms")
            number = line.adjusted(0, 0, -unit, 0)
            self._text(p, number, value, pixels, self.theme.colour("ink"), Qt.AlignmentFlag.AlignRight, bold=True)
            self._text(p, line, " ms", unit_px, self.theme.colour("soft_ink"), Qt.AlignmentFlag.AlignRight)
            p.setPen(QPen(self.theme.colour("faint"), 1))
            p.drawLine(line.bottomLeft(), line.bottomRight())

    def _ink(self, dial: Dial) -> QColor:
        return self.theme.colour("light_text" if dial.lights else "ink")

    def _text(
        self,
        p: QPainter,
        room: QRectF,
        words: str,
        pixels: int,
        ink: QColor,
        side: Qt.AlignmentFlag,
        bold: bool = False,
    ) -> None:
        p.setFont(_plain(pixels, bold))
        p.setPen(ink)
        p.drawText(room, side | Qt.AlignmentFlag.AlignVCenter, words)


def _plain(pixels: int, bold: bool = False) -> QFont:
    made = QFont(FAMILY)
    made.setPixelSize(max(pixels, 1))
    made.setBold(bold)
    return made
