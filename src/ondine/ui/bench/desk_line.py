"""The line under the flight chart: what lies under the cursor or in hand, and how hands are led."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QWidget

from ondine.core.timing.snapping import Snap
from ondine.ui.kit.theme import SMALL_PX, font
from ondine.ui.kit.words import Words

HIGH_PX = 34


class DeskLine(QWidget):
    """Words, and buttons: lock, snap, the table of numbers, the coach, the way back to the whole flight."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.words = Words(SMALL_PX)
        self.lock, self.snap = QPushButton("Lock"), QPushButton()
        self.times, self.whole = QPushButton("All times"), QPushButton("Whole flight")
        self.coach = QPushButton("Coach")
        self._sentences: list[str] = []
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(4)
        row.addWidget(self.words, 1)
        for button, says in (
            (self.whole, "Show the whole flight again  Home\nBackspace: what was shown before"),
            (self.lock, "Let what is selected keep its distance, or not  Ctrl L"),
            (self.snap, "What a dragged part is drawn to; Ctrl while dragging: nothing  Ctrl G"),
            (self.times, "All times as a table  Ctrl T"),
            (self.coach, "What to fire next, learned from what you have tagged  Ctrl P"),
        ):
            button.setToolTip(says)
            button.setFont(font(SMALL_PX))
            button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
            row.addWidget(button)
        self.times.setCheckable(True)
        self.coach.setCheckable(True)
        self.lock.setCheckable(True)
        self.whole.hide()
        self.show_snap(Snap.OFF)
        self.setFixedHeight(HIGH_PX)

    def show_snap(self, snap: Snap) -> None:
        """Say what a dragged part is drawn to."""
        self.snap.setText(f"Snap: {snap}")

    def show_words(self, sentences: list[str]) -> None:
        """Show as many sentences as there is room for."""
        self._sentences = sentences
        text = ""
        for sentence in sentences:
            longer = f"{text} {sentence}".strip()
            if text and not self.words.fits(longer, self.words.width()):
                break
            text = longer
        self.words.set_text(text)

    def resizeEvent(self, event: QResizeEvent) -> None:
        """What was too long may fit now."""
        super().resizeEvent(event)
        self.show_words(self._sentences)
