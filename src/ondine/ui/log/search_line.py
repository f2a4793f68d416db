"""The line at the head of the log: what to find, in which order, and the searches that were saved."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QTimer, Signal
from PySide6.QtWidgets import QComboBox, QHBoxLayout, QPushButton, QWidget

from ondine.logbook.query import Order
from ondine.ui.kit.theme import GRID_PX
from ondine.ui.log.query_field import QueryField
from ondine.ui.log.saved_searches import SavedSearches

AGAIN_MS = 400
"""A shot that is fired while the log is in view is looked for so much later, together with others."""


class SearchLine(QWidget):
    """Emits `asked(line, order, like)`, `like` being the shot that others are compared with, and `left()`.

    current_number : the shot under the log's cursor.
    """

    asked = Signal(str, object, object)
    left = Signal()

    def __init__(self, current_number: Callable[[], int | None], parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._current_number = current_number
        self._like: int | None = None
        self.text = QueryField()
        self.order = QComboBox()
        self.order.setAccessibleName("In which order")
        for order in Order:
            self.order.addItem(order.value.capitalize(), order)
        self.searches = SavedSearches()
        self.back = QPushButton("Back to the bench  Esc")
        self.back.clicked.connect(self.left)
        self._again = QTimer(self)
        self._again.setSingleShot(True)
        self._again.setInterval(AGAIN_MS)
        self._again.timeout.connect(self.ask)
        self.text.asked.connect(lambda _: self.ask())
        self.text.asked.connect(self.searches.offer)
        self.order.currentIndexChanged.connect(self._order_chosen)
        self.searches.chosen.connect(self.text.write)
        line = QHBoxLayout(self)
        line.setContentsMargins(0, 0, 0, 0)
        line.setSpacing(GRID_PX)
        for widget, stretch in ((self.text, 1), (self.searches, 0), (self.order, 0), (self.back, 0)):
            line.addWidget(widget, stretch)

    def ask(self) -> None:
        """Ask for the shots that fit now."""
        self._again.stop()
        order = Order(self.order.currentData())
        self.asked.emit(self.text.text(), order, self._like if order is Order.LIKE else None)

    def ask_again(self) -> None:
        """Ask soon: something was fired or changed."""
        if self.isVisible():
            self._again.start()

    def _order_chosen(self) -> None:
        # The shot under the cursor now, not the one that the cursor comes to.
        self._like = self._current_number()
        self.ask()

    def show_like_this(self) -> None:
        """Put the shots first that are most like the one under the cursor."""
        place = self.order.findData(Order.LIKE)
        if self.order.currentIndex() == place:
            self._order_chosen()
        else:
            self.order.setCurrentIndex(place)
