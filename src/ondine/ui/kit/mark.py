"""The mark that a simulated picture bears wherever it is shown: nobody must take it for a real one."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF
from PySide6.QtGui import QPainter

from ondine.ui.kit.theme import SMALL_PX, Theme, font

SIMULATED, SHORT = "simulated", "sim"
"""The mark, and how it stands on the smallest pictures."""

HIGH_PX, BESIDE_PX = 16.0, 5.0


def paint_mark(p: QPainter, theme: Theme, frame: QRectF, words: str) -> None:
    """Write words on a band in the lower left corner of a picture."""
    p.save()
    p.setFont(font(SMALL_PX))
    wide = min(p.fontMetrics().horizontalAdvance(words) + 2 * BESIDE_PX, frame.width())
    band = QRectF(frame.left(), frame.bottom() - HIGH_PX, wide, HIGH_PX)
    p.fillRect(band, theme.colour("air", 0.85))
    p.setPen(theme.colour("ink"))
    base = band.center().y() + (p.fontMetrics().ascent() - p.fontMetrics().descent()) / 2
    p.drawText(QPointF(band.left() + BESIDE_PX, base), words)
    p.restore()
