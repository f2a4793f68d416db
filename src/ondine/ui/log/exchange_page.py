"""What can leave the log and come into it: one press each, with what it is for."""

from __future__ import annotations

from enum import Enum

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QFrame, QHBoxLayout, QLabel, QProgressBar, QPushButton, QScrollArea, QVBoxLayout, QWidget

from ondine.core.numbers import counted
from ondine.ui.kit.parts import button, words
from ondine.ui.kit.theme import BODY_PX, GRID_PX, font


class Deed(Enum):
    """What can be asked for: what stands on its button, and what it does."""

    CSV = "Table (CSV)", "One row a shot, for a spreadsheet"
    JSON = "JSON", "With all set-ups, for other programs"
    SQLITE = "Database (SQLite)", "To compute with"
    XMP = "Sidecars (XMP)", "Shape, timing, rating and note beside each picture, for photo managers"
    LOGBOOK = "New logbook", "These shots, with all that belongs to them"
    CHART = "Flight chart (SVG, PDF, PNG)", "As it stands on the bench"
    TABLE = "Table that others wrote", "Each row becomes a shot; you say what its columns mean"
    MERGE = "Another logbook", "Its shots come in, none twice"
    MOVED = "Find moved pictures", "Known by their content, in a folder that you choose"
    BACK_UP = "Keep a copy now", "Verified; one a day is kept by itself"
    COPY = "Open a copy", "As a logbook of its own, beside this one"


OUT = (Deed.CSV, Deed.JSON, Deed.SQLITE, Deed.XMP, Deed.LOGBOOK)
IN = (Deed.TABLE, Deed.MERGE, Deed.MOVED)
COPIES = (Deed.BACK_UP, Deed.COPY)

PARTS = (("", OUT), ("From the bench", (Deed.CHART,)), ("Take in", IN), ("Copies of this logbook", COPIES))
"""What is under which heading; that of the first says how many shots it is about."""


class ExchangePage(QScrollArea):
    """Emits `asked(deed)`, and `cancelled()`."""

    asked = Signal(object)
    cancelled = Signal()

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWidgetResizable(True)
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setAccessibleName("In and out")
        self.buttons: dict[Deed, QPushButton] = {}
        self.found = QLabel()
        self.progress = QProgressBar()
        self.progress.setTextVisible(False)
        self.said = words("", soft=True)
        self.cancel = button("Cancel", "Stop; what is written stays", self.cancelled.emit)
        body = QWidget()
        column = QVBoxLayout(body)
        column.setContentsMargins(0, 0, GRID_PX, 0)
        column.setSpacing(GRID_PX // 2)
        running = QHBoxLayout()
        running.addWidget(self.progress, 1)
        running.addWidget(self.cancel)
        column.addWidget(self.said)
        column.addLayout(running)
        for title, deeds in PARTS:
            heading = self.found if not title else QLabel(title)
            heading.setFont(font(BODY_PX, bold=True))
            column.addWidget(heading)
            for deed in deeds:
                column.addLayout(self._row(deed))
            column.addSpacing(GRID_PX)
        column.addStretch(1)
        self.setWidget(body)
        self.show_found(0)
        self.show_progress("", 0, 0)

    def _row(self, deed: Deed) -> QVBoxLayout:
        name, says = deed.value
        made = button(name, says, lambda: self.asked.emit(deed))
        made.setMinimumHeight(32)
        made.setAccessibleDescription(says)
        self.buttons[deed] = made
        row = QVBoxLayout()
        row.setSpacing(0)
        row.addWidget(made)
        row.addWidget(words(says, soft=True))
        return row

    def show_found(self, shots: int) -> None:
        """Say how many shots would be written out: those found, or the selected ones."""
        self.found.setText(f"Write out {counted(shots, 'shot')}")
        for deed in OUT:
            self.buttons[deed].setEnabled(shots > 0)

    def show_progress(self, what: str, done: int, of: int) -> None:
        """Show how far something is; nothing where it has ended."""
        for part in (self.progress, self.cancel, self.said):
            part.setVisible(bool(what))
        self.said.setText(f"{what}: {done} of {of}" if of else what)
        self.progress.setRange(0, of)
        self.progress.setValue(done)
