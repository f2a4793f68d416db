"""A line or two of text that changes while the hand moves."""

from __future__ import annotations

from PySide6.QtCore import QRect, QSize, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QResizeEvent
from PySide6.QtWidgets import QWidget

from ondine.ui.kit.theme import DAY, Theme, font


class Words(QWidget):
    """Shows text in a room of fixed height. Unlike a QLabel it never asks the window to lay itself out anew.

    Text of several lines is wrapped; where each line is given, or there is room for one, what is too long ends in dots.
    Where not all of it is seen, the tip has it.
    """

    def __init__(self, pixels: int, lines: int = 1, bold: bool = False, role: str = "soft_ink") -> None:
        super().__init__()
        self.theme: Theme = DAY
        self._role = self._usual_role = role
        self._text, self._lines = "", lines
        self.setFont(font(pixels, bold))
        self.setFixedHeight(self.fontMetrics().height() * lines)

    def text(self) -> str:
        """Return what is shown."""
        return self._text

    def set_text(self, text: str, role: str | None = None) -> None:
        """Show something else; `role` is the colour for it where it is not the usual one."""
        if text != self._text:
            self._text, self._role = text, role or self._usual_role
            self.setAccessibleName(text)
            self.setToolTip(self._tip())
            self.update()

    def _shown(self) -> str:
        """Return the text as it is drawn: each line on its own if there is room for all of them, else to be wrapped."""
        lines = self._text.split("\n")
        if self._lines > 1 and len(lines) < self._lines:
            return self._text
        right = Qt.TextElideMode.ElideRight
        return "\n".join(self.fontMetrics().elidedText(line, right, max(self.width(), 1)) for line in lines)

    def resizeEvent(self, event: QResizeEvent) -> None:
        """What was too long may fit now."""
        self.setToolTip(self._tip())

    def _tip(self) -> str:
        """All of the text where not all of it is seen."""
        seen = self._shown() == self._text and self.needs().height() <= self.height()
        return "" if seen else self._text

    def needs(self) -> QSize:
        """Return the room that the text takes when it is wrapped to the width."""
        room = QRect(0, 0, self.width(), 10_000)
        return self.fontMetrics().boundingRect(room, int(Qt.TextFlag.TextWordWrap), self._shown()).size()

    def fits(self, text: str, width_px: int) -> bool:
        """Whether a text would stand on one line of a width."""
        return self.fontMetrics().horizontalAdvance(text) <= width_px

    def holds(self, text: str) -> bool:
        """Whether a text would stand in the room, wrapped."""
        wrap = int(Qt.TextFlag.TextWordWrap)
        return self.fontMetrics().boundingRect(QRect(0, 0, self.width(), 10_000), wrap, text).height() <= self.height()

    def paintEvent(self, event: QPaintEvent) -> None:
        """Draw the text from the upper left."""
        with QPainter(self) as p:
            p.setPen(self.theme.colour(self._role))
            p.drawText(self.rect(), int(Qt.TextFlag.TextWordWrap), self._shown())
