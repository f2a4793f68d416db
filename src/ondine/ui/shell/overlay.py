"""What lies over the page for a while: the rig, the keys, or nothing but dark."""

from __future__ import annotations

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPen, QShowEvent
from PySide6.QtWidgets import QFrame, QGridLayout, QLabel, QPushButton, QScrollArea, QVBoxLayout, QWidget

from ondine.ui.kit.theme import BODY_PX, DAY, GRID_PX, SMALL_PX, Theme, font
from ondine.ui.shell.keys import KEYS

CAUTION = (
    "Mains and flashes away from the spray, dry hands at them, flash housings closed. Repeated flashes can harm "
    "photosensitive people. Local rules and licensed electricians come first."
)


class Drawer(QWidget):
    """A sheet over the right edge with a title, a body, and a way to close it."""

    closed = Signal()

    def __init__(self, title: str, body: QWidget, parent: QWidget) -> None:
        super().__init__(parent)
        self.theme: Theme = DAY
        heading = QLabel(title)
        heading.setFont(font(BODY_PX, bold=True))
        close = QPushButton("Close  Esc")
        close.setFont(font(SMALL_PX))
        close.clicked.connect(self.closed)
        top = QGridLayout()
        top.addWidget(heading, 0, 0)
        top.addWidget(close, 0, 1, Qt.AlignmentFlag.AlignRight)
        column = QVBoxLayout(self)
        column.setContentsMargins(2 * GRID_PX, GRID_PX, 2 * GRID_PX, GRID_PX)
        column.addLayout(top)
        column.addWidget(body, 1)
        self.hide()

    def paintEvent(self, event: QPaintEvent) -> None:
        """A plain ground and one edge."""
        with QPainter(self) as p:
            p.fillRect(self.rect(), self.theme.colour("air"))
            p.setPen(QPen(self.theme.colour("line"), 1))
            p.drawLine(0, 0, 0, self.height())


class Blank(QWidget):
    """Black over everything; any press lifts it."""

    lifted = Signal()

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.setAccessibleName("Window blanked")
        self.setCursor(Qt.CursorShape.BlankCursor)
        self.hide()

    def paintEvent(self, event: QPaintEvent) -> None:
        """Nothing but black."""
        with QPainter(self) as p:
            p.fillRect(self.rect(), Qt.GlobalColor.black)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Come back."""
        self.lifted.emit()


class KeysPage(QScrollArea):
    """The list of all keys, made when it is first shown; a window that is too low for it scrolls."""

    def __init__(self) -> None:
        super().__init__()
        self.setAccessibleName("All keys")
        self.setWidgetResizable(True)
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)

    def showEvent(self, event: QShowEvent) -> None:
        """Make the list."""
        if self.widget() is None:
            self.setWidget(_all_keys())
        super().showEvent(event)


def _all_keys() -> QWidget:
    page = QWidget()
    grid = QGridLayout(page)
    grid.setVerticalSpacing(2)
    shown = [key for key in KEYS if key.shown]
    for row, key in enumerate(shown):
        name = QLabel(key.shown)
        name.setFont(font(SMALL_PX, bold=True))
        does = QLabel(key.does)
        does.setFont(font(SMALL_PX))
        does.setWordWrap(True)
        grid.addWidget(name, row, 0, Qt.AlignmentFlag.AlignTop)
        grid.addWidget(does, row, 1)
    grid.setColumnStretch(1, 1)
    caution = QLabel(CAUTION)
    caution.setObjectName("soft")
    caution.setFont(font(SMALL_PX))
    caution.setWordWrap(True)
    grid.addWidget(caution, len(shown), 0, 1, 2)
    grid.setRowStretch(len(shown) + 1, 1)
    return page
