"""The clock card on the screen: the time as a code and in figures, to be photographed once with the camera."""

from __future__ import annotations

from collections.abc import Callable
from datetime import datetime

import numpy as np
from PySide6.QtCore import QRectF, Qt, QTimer
from PySide6.QtGui import QCloseEvent, QKeyEvent, QMouseEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QWidget

from ondine.logbook.clock_code import code_of, modules_of
from ondine.ui.kit.theme import BODY_PX, LARGE_PX, font

EACH_MS = 200
"""How long a code stands: long enough for a screen to show it and a shutter to see it."""

SHARE = 0.6
HANDS = "Photograph this page once with the camera, sharp and whole, and leave it on the card. Any key closes it."


class ClockCard(QWidget):
    """A window of its own, white all over: it is to be photographed, in the dark too.

    now : the computer's time, with its zone.
    """

    def __init__(self, now: Callable[[], datetime], parent: QWidget | None = None) -> None:
        super().__init__(parent, Qt.WindowType.Window)
        self._now = now
        self.setWindowTitle("Clock card")
        self.setAccessibleName("Clock card")
        self.setAccessibleDescription(HANDS)
        self.resize(900, 700)
        self.shown = now()
        self._tick = QTimer(self)
        self._tick.setInterval(EACH_MS)
        self._tick.timeout.connect(self._show_now)
        self._tick.start()

    def _show_now(self) -> None:
        self.shown = self._now()
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        """Draw the code, the time and what to do."""
        dark = modules_of(code_of(self.shown))
        side = min(self.width(), self.height()) * SHARE
        cell = max(1.0, side // len(dark))
        left, top = (self.width() - cell * len(dark)) / 2, self.height() * 0.08
        with QPainter(self) as p:
            p.fillRect(self.rect(), Qt.GlobalColor.white)
            for row, column in np.argwhere(dark):
                p.fillRect(QRectF(left + column * cell, top + row * cell, cell, cell), Qt.GlobalColor.black)
            p.setPen(Qt.GlobalColor.black)
            under = QRectF(0, top + cell * len(dark), self.width(), self.height() * 0.1)
            p.setFont(font(LARGE_PX, bold=True))
            shown = self.shown.astimezone()
            words = f"{shown:%Y-%m-%d  %H:%M:%S}.{shown.microsecond // 100_000}"
            p.drawText(under, Qt.AlignmentFlag.AlignCenter, words)
            p.setFont(font(BODY_PX))
            foot = QRectF(24, under.bottom(), self.width() - 48, self.height() - under.bottom() - 16)
            p.drawText(foot, Qt.AlignmentFlag.AlignHCenter | Qt.TextFlag.TextWordWrap, HANDS)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Any key closes it."""
        self.close()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """So does a press."""
        self.close()

    def closeEvent(self, event: QCloseEvent) -> None:
        """Stop the clock."""
        self._tick.stop()
        super().closeEvent(event)
        self.deleteLater()
