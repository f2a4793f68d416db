"""A number to drag with the wheel, nudge with the arrows, or type."""

from __future__ import annotations

from PySide6.QtCore import QSignalBlocker, Qt, Signal
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QDoubleSpinBox, QLabel, QVBoxLayout, QWidget

from ondine.core.sequence import MAX_TIME_US
from ondine.ui.theme import BODY_PX, LARGE_PX, SMALL_PX, font
from ondine.ui.words import Words

COARSE_MS = 5.0


class MillisecondField(QDoubleSpinBox):
    """A time in ms to a tenth. Arrows and wheel go by the fine step, with Shift or Page keys by the coarse one.

    `set_us` shows a value without echo; `edited_us` tells what the hand made of it.
    """

    edited_us = Signal(int)

    def __init__(self, name: str, large: bool, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setAccessibleName(name)
        self.setRange(0.0, MAX_TIME_US / 1000)
        self.setDecimals(1)
        self.setSuffix(" ms")
        self.setSingleStep(1.0)
        self.setKeyboardTracking(False)
        self.setFont(font(LARGE_PX if large else BODY_PX, bold=large))
        self.setAlignment(Qt.AlignmentFlag.AlignLeft)
        self.valueChanged.connect(lambda value: self.edited_us.emit(round(value * 1000)))

    def set_us(self, time_us: int) -> None:
        """Show a time that came from elsewhere."""
        if round(self.value() * 1000) != time_us:
            with QSignalBlocker(self):
                self.setValue(time_us / 1000)

    def stepBy(self, steps: int) -> None:
        """Page keys count ten steps in Qt; here they are the coarse step."""
        if abs(steps) == 10:
            self.setValue(self.value() + (COARSE_MS if steps > 0 else -COARSE_MS))
        else:
            super().stepBy(steps)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Shift with an arrow is the coarse step."""
        vertical = event.key() in (Qt.Key.Key_Up, Qt.Key.Key_Down)
        if vertical and event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
            self.stepBy(10 if event.key() == Qt.Key.Key_Up else -10)
            return
        super().keyPressEvent(event)


class TitledField(QWidget):
    """A field under its name, with a line of what it means below."""

    def __init__(self, title: str, field: QWidget, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.field = field
        self.title = QLabel(title)
        self.title.setObjectName("soft")
        self.title.setFont(font(SMALL_PX))
        self.title.setBuddy(field)
        self.meaning = Words(SMALL_PX)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(2)
        for widget in (self.title, field, self.meaning):
            column.addWidget(widget)
