"""The first question: what opens your valve? Three ways to work, what each is for, what it needs, what comes next."""

from __future__ import annotations

from dataclasses import dataclass

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QFrame, QGridLayout, QHBoxLayout, QLabel, QPushButton, QScrollArea, QVBoxLayout, QWidget

from ondine.core.setup import BenchKind
from ondine.ui.kit.parts import button, words
from ondine.ui.kit.theme import BODY_PX, DAY, GRID_PX, LARGE_PX, Theme, font

QUESTION = "What opens your valve?"
COLUMN_PX = 340


@dataclass(frozen=True)
class Way:
    """One way to work, in words."""

    kind: BenchKind
    name: str
    is_for: str
    needs: str
    then: str


WAYS = (
    Way(
        BenchKind.BY_HAND,
        "My hand",
        "You turn the dials of a box, or let drops fall from a bag, a syringe or a tap. Ondine works out the timing, "
        "shows what to set, and logs the shot when you press Space.",
        "A camera whose pictures reach this computer, by cable, by radio or on its card.",
        "Describe your table, stage by stage. With a box, tell its dials first.",
    ),
    Way(
        BenchKind.CABLE,
        "A controller by cable",
        "Ondine itself opens the valve and fires flash and camera, to the millisecond.",
        "A controller that Ondine can drive. This version drives none yet.",
        "Until then, dial its numbers by hand: choose My hand.",
    ),
    Way(
        BenchKind.SIMULATED,
        "Nothing yet: I practise",
        "A simulated bench with a rig of its own drops, flashes and takes pictures. Try timings and learn to read "
        "shapes without spilling a drop.",
        "Nothing. Its shots are marked as simulated for ever, and have a logbook of their own.",
        "Fire, look at the picture, press the letter of its shape.",
    ),
)


class StartPage(QWidget):
    """Emits `by_hand(whether there is a box with dials)`, `practise()` and `open_file()`."""

    by_hand = Signal(bool)
    practise = Signal()
    open_file = Signal()

    def __init__(self, kind: BenchKind, logbook: str, asks: bool) -> None:
        """`kind`: the bench of the logbook that is open; `logbook`: where that lies; `asks`: nobody has chosen yet."""
        super().__init__()
        self.theme: Theme = DAY
        self.box = button("I have a box with dials", "Tell Ondine how its dials count", lambda: self.by_hand.emit(True))
        self.bare = button("No electronics", "A bag, a syringe, a tap: to the table", lambda: self.by_hand.emit(False))
        practising = kind is BenchKind.SIMULATED
        self.practice = button(
            "Practise" if practising else "Open the practice logbook",
            "To the bench" if practising else "Simulated shots and those of your table do not mix",
            self.practise.emit,
        )
        self.cable = button("Not yet", "", lambda: None)
        self.cable.setEnabled(False)
        self.open = button("Open a file  Ctrl O", "A logbook, a recipe or a set-up", self.open_file.emit)
        self._lay_out(kind, logbook, asks)

    def _lay_out(self, kind: BenchKind, logbook: str, asks: bool) -> None:
        buttons = {
            BenchKind.BY_HAND: (self.box, self.bare),
            BenchKind.CABLE: (self.cable,),
            BenchKind.SIMULATED: (self.practice,),
        }
        question = QLabel(QUESTION)
        question.setFont(font(LARGE_PX, bold=True))
        ways = QGridLayout()
        ways.setHorizontalSpacing(5 * GRID_PX)
        ways.setVerticalSpacing(GRID_PX)
        for place, way in enumerate(WAYS):
            here = "The logbook that is open is of this kind." if way.kind is kind and not asks else ""
            _fill(ways, place, way, here, buttons[way.kind])
        across = QHBoxLayout()
        across.addLayout(ways)
        across.addStretch(1)
        where = words(f"The logbook that is open: {logbook}", soft=True)
        where.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        foot = QHBoxLayout()
        foot.addWidget(self.open)
        foot.addSpacing(2 * GRID_PX)
        foot.addWidget(where, 1)
        inner = QWidget()
        column = QVBoxLayout(inner)
        column.setContentsMargins(6 * GRID_PX, 6 * GRID_PX, 6 * GRID_PX, 4 * GRID_PX)
        column.setSpacing(3 * GRID_PX)
        column.addWidget(question)
        column.addWidget(words("You can change it at any time: press what the header says of the bench, or F10."))
        column.addLayout(across)
        column.addStretch(1)
        column.addLayout(foot)
        scroll = QScrollArea()
        scroll.setWidgetResizable(True)
        scroll.setFrameShape(QFrame.Shape.NoFrame)
        scroll.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        scroll.setWidget(inner)
        whole = QVBoxLayout(self)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.addWidget(scroll)

    def set_theme(self, theme: Theme) -> None:
        """Apply the theme."""
        self.theme = theme
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        """Air, and the waterline under the three ways."""
        with QPainter(self) as p:
            p.fillRect(self.rect(), self.theme.colour("air"))
            p.setPen(QPen(self.theme.colour("line"), 1))
            p.drawLine(0, 0, 0, self.height())


def _fill(grid: QGridLayout, column: int, way: Way, here: str, buttons: tuple[QPushButton, ...]) -> None:
    """Write a way into a column; what is alike stands in one row."""
    name = QLabel(way.name)
    name.setFont(font(BODY_PX, bold=True))
    needs, then = words("You need", soft=True), words("What comes next", soft=True)
    parts: list[QWidget] = [name, words(way.is_for), needs, words(way.needs), then, words(way.then), *buttons]
    if len(buttons) == 1:
        parts.append(QWidget())
    parts.append(words(here, soft=True))
    for row, part in enumerate(parts):
        part.setMaximumWidth(COLUMN_PX)
        part.setMinimumWidth(COLUMN_PX - 60)
        aligned = Qt.AlignmentFlag.AlignTop if isinstance(part, QLabel) else Qt.AlignmentFlag(0)
        grid.addWidget(part, row, column, aligned)
