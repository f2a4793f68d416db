"""Text in figures that are painted by hand."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QFontMetrics, QPainter

from ondine.ui.kit.theme import LARGE_PX, SMALL_PX, Theme, font

LEFT, CENTRE, RIGHT = Qt.AlignmentFlag.AlignLeft, Qt.AlignmentFlag.AlignHCenter, Qt.AlignmentFlag.AlignRight


def write(p: QPainter, room: QRectF, text: str, side: Qt.AlignmentFlag) -> None:
    """Write a small line, centred upright: a third as dear as to let Qt set the font and lay it out in a rectangle.

    The painter has the small font already.
    """
    spare = room.width() - text_width(text)
    left = room.left() + {LEFT: 0.0, CENTRE: spare / 2, RIGHT: spare}[side]
    p.drawText(QPointF(left, room.center().y() + _rise()), text)


@lru_cache(maxsize=1024)
def text_width(text: str) -> int:
    """Return how wide a small line is [px]."""
    return QFontMetrics(font(SMALL_PX)).horizontalAdvance(text)


@lru_cache(maxsize=1)
def _rise() -> float:
    """How far the base of small letters lies under the middle of their line."""
    metrics = QFontMetrics(font(SMALL_PX))
    return (metrics.ascent() - metrics.descent()) / 2


@dataclass(frozen=True)
class Lettering:
    """Writes with a painter in a theme's inks."""

    p: QPainter
    theme: Theme

    def write(
        self,
        room: QRectF,
        words: str,
        role: str = "soft_ink",
        side: Qt.AlignmentFlag = LEFT,
        bold: bool = False,
        wrap: bool = False,
        pixels: int = SMALL_PX,
    ) -> None:
        """Write words into a room, centred upright."""
        self.p.setFont(font(pixels, bold))
        self.p.setPen(self.theme.colour(role))
        flags = side | Qt.AlignmentFlag.AlignVCenter
        self.p.drawText(room, int(flags) | int(Qt.TextFlag.TextWordWrap) if wrap else int(flags), words)

    def figure(
        self, room: QRectF, name: str, value: str, unit: str = "", role: str = "ink", least: int = SMALL_PX
    ) -> None:
        """Write a large number under its name, its unit beside it; one that is too long in `least`."""
        self.write(QRectF(room.left(), room.top(), room.width(), 18), name)
        bold = font(LARGE_PX, bold=True)
        self.p.setFont(bold)
        fits = self.p.fontMetrics().horizontalAdvance(value) <= room.width() - (30 if unit else 4)
        pixels = LARGE_PX if fits else least
        self.write(QRectF(room.left(), room.top() + 18, room.width(), 38), value, role, bold=True, pixels=pixels)
        if unit:
            offset = self.p.fontMetrics().horizontalAdvance(value) + 6
            self.write(QRectF(room.left() + offset, room.top() + 32, 80, 18), unit, "ink")
