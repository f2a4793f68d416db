"""A pairing that is not sure, asked where the picture is seen."""

from __future__ import annotations

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QWidget

from ondine.ui.kit.theme import GRID_PX, SMALL_PX, font


class PictureQuestion(QWidget):
    """Emits `answered(whether the picture is this shot's)`."""

    answered = Signal(bool)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.words = QLabel("Is it this shot's picture?")
        self.words.setToolTip("Another shot fired about then, or its time fits no shot.")
        self.words.setFont(font(SMALL_PX))
        self.yes, self.no = QPushButton("Yes  Alt Y"), QPushButton("No  Alt N")
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(GRID_PX)
        row.addWidget(self.words, 1)
        for button, belongs in ((self.yes, True), (self.no, False)):
            button.setFont(font(SMALL_PX))
            button.setObjectName("edged")
            button.clicked.connect(lambda _=False, answer=belongs: self.answered.emit(answer))
            row.addWidget(button)
        self.hide()
