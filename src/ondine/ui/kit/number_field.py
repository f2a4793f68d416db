"""A time to turn with the wheel, nudge with the arrows, or type; and a field under its name."""

from __future__ import annotations

from PySide6.QtCore import QSignalBlocker, Qt, Signal
from PySide6.QtGui import QFontMetrics, QResizeEvent
from PySide6.QtWidgets import QPushButton, QSizePolicy, QVBoxLayout, QWidget

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

    def count_from(self, base_us: int) -> None:
        """Take what is typed as counted from a time: so much before it, and so much after, as sequences may be."""
        low, high = -base_us / 1000, (MAX_TIME_US - base_us) / 1000
        if (low, high) != (self.minimum(), self.maximum()):
            with QSignalBlocker(self):
                self.setRange(low, high)
                if self._inside is not None:
                    self.setValue(self._inside / 1000)

    def _fit(self) -> None:
        """Write what is too long for the large size in the next one."""
        large = font(LARGE_PX, bold=True)
        room = self.width() - 2 * GRID_PX
        wanted = large if QFontMetrics(large).horizontalAdvance(self.text()) <= room else font(BODY_PX, bold=True)
        if self.font() != wanted or self.lineEdit().font().pixelSize() != wanted.pixelSize():
            self.setFont(wanted)
            # Within a resize the line inside does not hear of it.
            self.lineEdit().setFont(wanted)

    def resizeEvent(self, event: QResizeEvent) -> None:
        """Fit the number."""
        super().resizeEvent(event)
        if self._large:
            self._fit()


class TitleButton(QPushButton):
    """The name over a field, to be pressed where it can be counted otherwise. What is too long ends in dots."""

    def __init__(self, says: str) -> None:
        super().__init__()
        self.setObjectName("title")
        self.setFont(font(SMALL_PX))
        self.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
        # A press leaves the focus where it was: the next Space fires.
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self._says, self._whole = says, ""

    def show_text(self, text: str) -> None:
        """Show another name."""
        if text != self._whole:
            self._whole = text
            self.setAccessibleName(text)
            self._fit()

    def _fit(self) -> None:
        shown = self.fontMetrics().elidedText(self._whole, Qt.TextElideMode.ElideRight, max(self.width() - 4, 1))
        self.setText(shown)
        self.setToolTip(self._says if shown == self._whole else f"{self._whole}\n{self._says}")

    def resizeEvent(self, event: QResizeEvent) -> None:
        """What was too long may fit now."""
        super().resizeEvent(event)
        self._fit()


class TitledField(QWidget):
    """A field under its name, with a line of what it means below. Emits `pressed()` when its name is pressed."""

    pressed = Signal()

    def __init__(self, title: str, field: QWidget, says: str, parent: QWidget | None = None) -> None:
        """`says`: what a press of the name does."""
        super().__init__(parent)
        self.field = field
        self.title = TitleButton(says)
        self.title.show_text(title)
        self.title.clicked.connect(self.pressed)
        self.meaning = Words(SMALL_PX)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        for widget in (self.title, field, self.meaning):
            column.addWidget(widget)
