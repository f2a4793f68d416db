"""What is wanted of the goal besides its shape: a height over the water, and drops of the sizes in hand."""

from __future__ import annotations

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QHBoxLayout, QLineEdit, QPushButton, QVBoxLayout, QWidget

from ondine.ui.kit.theme import GRID_PX, SMALL_PX, font
from ondine.ui.kit.words import Words

NO_HEIGHT = "That is no height. Write it like 18 mm, or leave it empty for any."


class CoachWish(QWidget):
    """Emits `changed()`; `height_m` is None where any height will do."""

    changed = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.height_m: float | None = None
        self.height_line = QLineEdit()
        self.height_line.setAccessibleName("Height wanted")
        self.height_line.setPlaceholderText("At any height")
        self.height_line.setToolTip(
            "Where the drop is to meet the jet, over the water, as in 18 mm; empty for any height"
        )
        self.keep = QPushButton("Keep the sizes")
        self.keep.setObjectName("edged")
        self.keep.setCheckable(True)
        self.keep.setToolTip("Before the first shot the coach asks for large drops: their umbrella stands open longer")
        self.trouble = Words(SMALL_PX, role="ink")
        for control in (self.height_line, self.keep):
            control.setFont(font(SMALL_PX))
            control.setMinimumHeight(32)
        row = QHBoxLayout()
        row.setSpacing(GRID_PX)
        row.addWidget(self.height_line, 1)
        row.addWidget(self.keep, 1)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(2)
        column.addLayout(row)
        column.addWidget(self.trouble)
        self.trouble.hide()
        self.height_line.editingFinished.connect(self._read)
        self.keep.toggled.connect(lambda _: self.changed.emit())

    def _read(self) -> None:
        from ondine.core.coach.measured import read_height

        text = self.height_line.text().strip()
        height_m = read_height(text) if text else None
        wrong = bool(text) and height_m is None
        self.trouble.set_text(NO_HEIGHT if wrong else "")
        self.trouble.setVisible(wrong)
        if not wrong and height_m != self.height_m:
            self.height_m = height_m
            self.changed.emit()
