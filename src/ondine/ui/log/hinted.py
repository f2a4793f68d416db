"""A view of the log with a line over it that says what hands can do there."""

from __future__ import annotations

from PySide6.QtWidgets import QLabel, QVBoxLayout, QWidget

from ondine.ui.kit.theme import GRID_PX, SMALL_PX, font


class Hinted(QWidget):
    """One view under one line of words."""

    def __init__(self, view: QWidget, hint: str, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.hint = hint
        self.words = QLabel(hint)
        self.words.setObjectName("soft")
        self.words.setFont(font(SMALL_PX))
        self.words.setToolTip(hint)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(GRID_PX)
        column.addWidget(self.words)
        column.addWidget(view, 1)
        self.setFocusProxy(view)
