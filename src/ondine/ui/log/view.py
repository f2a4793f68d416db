"""The log: every shot, found again by shape, rating or words."""

from __future__ import annotations

from PySide6.QtCore import QSize, Qt, QTimer, Signal
from PySide6.QtWidgets import QComboBox, QHBoxLayout, QLabel, QLineEdit, QPushButton, QVBoxLayout, QWidget

from ondine.core.forecast.shapes import SHAPES
from ondine.logbook.errors import RESCUE
from ondine.logbook.records import ShotQuery, ShotRecord
from ondine.ui.kit.pictures import PictureLoader
from ondine.ui.kit.shot_list import SHOT, ShotList
from ondine.ui.kit.theme import GRID_PX, Theme


class LogView(QWidget):
    """A grid of shots under a line of filters. Emits `asked(query)`; the answer comes through `show_shots`."""

    asked = Signal(object)
    chosen = Signal(object)
    left = Signal()

    def __init__(self, loader: PictureLoader, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.shape = QComboBox()
        self.shape.setAccessibleName("Shape to find")
        self.shape.addItem("Any shape", None)
        for shape in SHAPES:
            self.shape.addItem(shape.name, shape.key)
        self.rating = QComboBox()
        self.rating.setAccessibleName("Least rating to find")
        for stars in range(6):
            self.rating.addItem("Any rating" if stars == 0 else f"Rated {stars} or more", stars)
        self.text = QLineEdit()
        self.text.setAccessibleName("Words to find")
        self.text.setPlaceholderText("Words in note or sitting")
        self.text.setClearButtonEnabled(True)
        self.tally = QLabel()
        self.tally.setObjectName("soft")
        self.back = QPushButton("Back to the bench  Esc")
        self.back.clicked.connect(self.left)
        self.list = ShotList(loader, QSize(186, 124), grid=True)
        self.list.setAccessibleName("All shots found")
        self.list.activated.connect(lambda index: self.chosen.emit(index.data(SHOT)))
        self.empty = QLabel("No shot fits. Ask for less, or fire one: it will be here.")
        self.empty.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self._wait = QTimer(self)
        self._wait.setSingleShot(True)
        self._wait.setInterval(150)
        self._wait.timeout.connect(self.ask)
        self.shape.currentIndexChanged.connect(self.ask)
        self.rating.currentIndexChanged.connect(self.ask)
        self.text.textChanged.connect(lambda _: self._wait.start())
        self._lay_out()

    def _lay_out(self) -> None:
        line = QHBoxLayout()
        line.setSpacing(GRID_PX)
        for widget, stretch in ((self.shape, 0), (self.rating, 0), (self.text, 1), (self.tally, 0), (self.back, 0)):
            line.addWidget(widget, stretch)
        self.text.setMaximumWidth(320)
        line.insertStretch(3, 1)
        column = QVBoxLayout(self)
        column.setContentsMargins(2 * GRID_PX, GRID_PX, 2 * GRID_PX, GRID_PX)
        column.addLayout(line)
        column.addWidget(self.empty)
        column.addWidget(self.list, 1)

    def query(self) -> ShotQuery:
        """Return what is asked for."""
        return ShotQuery(self.shape.currentData(), self.rating.currentData() or 0, self.text.text().strip())

    def ask(self) -> None:
        """Ask for the shots that fit now."""
        self.asked.emit(self.query())

    def show_shots(self, shots: list[ShotRecord], unreadable: int = 0) -> None:
        """Show the answer, and how many shots that fit cannot be read."""
        self.list.shots.set_shots(shots)
        tally = f"{len(shots)} shots" if len(shots) != 1 else "1 shot"
        self.tally.setText(f"{tally}, {unreadable} more cannot be read" if unreadable else tally)
        self.tally.setToolTip(RESCUE if unreadable else "")
        self.empty.setVisible(not shots)
        self.list.setVisible(bool(shots))

    def set_theme(self, theme: Theme) -> None:
        """Take other colours."""
        self.list.set_theme(theme)
