"""A time to turn with the wheel, nudge with the arrows, or type; and a field under its name."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtGui import QFontMetrics, QResizeEvent
from PySide6.QtWidgets import QLabel, QVBoxLayout, QWidget

from ondine.core.timing.sequence import MAX_TIME_US
from ondine.core.units import Quantity
from ondine.ui.kit.fields import WholeField
from ondine.ui.kit.theme import BODY_PX, GRID_PX, LARGE_PX, SMALL_PX, font
from ondine.ui.kit.words import Words

LARGE_FIELD_PX = 40
MILLISECONDS = Quantity("ms", 1e-3, 1, 1.0, 5.0)


class MillisecondField(WholeField):
    """A time of the sequence: ms to a tenth as shown, whole µs inside."""

    def __init__(self, name: str, large: bool) -> None:
        super().__init__(name)
        self.show_as(MILLISECONDS)
        self.setRange(0.0, MAX_TIME_US / 1000)
        self._large = large
        self.setFont(font(LARGE_PX if large else BODY_PX, bold=large))
        self.setAlignment(Qt.AlignmentFlag.AlignLeft)
        if large:
            self.setMinimumHeight(LARGE_FIELD_PX)
            self.lineEdit().textChanged.connect(lambda _: self._fit())

    def _fit(self) -> None:
        """Write what is too long for the large size in the next one."""
        large = font(LARGE_PX, bold=True)
        room = self.width() - 2 * GRID_PX
        wanted = large if QFontMetrics(large).horizontalAdvance(self.text()) <= room else font(BODY_PX, bold=True)
        if self.font() != wanted:
            self.setFont(wanted)

    def resizeEvent(self, event: QResizeEvent) -> None:
        """Fit the number."""
        super().resizeEvent(event)
        if self._large:
            self._fit()


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
