"""The searches that were saved, and what can be done with the one that is written."""

from __future__ import annotations

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QComboBox, QWidget

SAVE, FORGET = object(), object()


class SavedSearches(QComboBox):
    """Emits `chosen(line)`, and `saved(line)` or `forgotten(line)` for the line that is written."""

    chosen = Signal(str)
    saved = Signal(str)
    forgotten = Signal(str)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._line = ""
        self._kept: tuple[str, ...] = ()
        self.setAccessibleName("Saved searches")
        self.setMinimumContentsLength(12)
        self.activated.connect(self._take)

    def offer(self, line: str, kept: tuple[str, ...] | None = None) -> None:
        """First the name of the box, then what is saved, then what can be done with the line as it is."""
        self._line, self._kept = line.strip(), self._kept if kept is None else kept
        self.clear()
        self.addItem("Saved searches", "")
        for search in self._kept:
            self.addItem(search, search)
        if self._line in self._kept:
            self.addItem("Forget this search", FORGET)
        elif self._line:
            self.addItem("Save this search", SAVE)

    def _take(self, place: int) -> None:
        what = self.itemData(place)
        self.setCurrentIndex(0)
        if what is SAVE:
            self.saved.emit(self._line)
        elif what is FORGET:
            self.forgotten.emit(self._line)
        elif what:
            self.chosen.emit(what)
