"""What every stage has: a figure and a panel."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QVBoxLayout, QWidget

from ondine.ui.kit.theme import BODY_PX, GRID_PX, SMALL_PX, Theme, font
from ondine.ui.table.state import TableState
from ondine.ui.table.tools import TableTools


class StagePage:
    """One stage of the table. `figure` stands left, `panel` right; both are shown the same table."""

    title = ""
    hint = ""

    def __init__(self, tools: TableTools) -> None:
        self.tools = tools
        self.figure: QWidget = QWidget()
        self.panel = QWidget()
        self.column = QVBoxLayout(self.panel)
        self.column.setContentsMargins(0, 0, 0, 0)
        self.column.setSpacing(GRID_PX)

    def show(self, table: TableState) -> None:
        """Show a table; called while the stage is open."""

    def set_theme(self, theme: Theme) -> None:
        """Apply the theme to the figure."""
        self.figure.theme = theme  # type: ignore[attr-defined]
        self.figure.update()


def note(words: str = "", soft: bool = True, bold: bool = False) -> QLabel:
    """Return a paragraph that wraps."""
    label = QLabel(words)
    if soft:
        label.setObjectName("soft")
    label.setFont(font(SMALL_PX, bold))
    label.setWordWrap(True)
    return label


def tag(words: str) -> QLabel:
    """Return the name of a field that stands beside it in a row."""
    label = note(words)
    label.setWordWrap(False)
    return label


def heading(words: str) -> QLabel:
    """Return the heading of a part of a panel."""
    label = QLabel(words)
    label.setFont(font(BODY_PX, bold=True))
    return label


def button(words: str, does: Callable[[], object] | None = None, tip: str = "") -> QPushButton:
    """Return a button with an edge, as tall as a wet finger needs."""
    made = QPushButton(words)
    made.setObjectName("edged")
    made.setFont(font(SMALL_PX))
    made.setMinimumHeight(32)
    made.setToolTip(tip)
    if does is not None:
        made.clicked.connect(lambda: does())
    return made


def row(*widgets: QWidget, stretch: bool = True) -> QHBoxLayout:
    """Return widgets side by side."""
    made = QHBoxLayout()
    made.setSpacing(GRID_PX)
    for widget in widgets:
        made.addWidget(widget)
    if stretch:
        made.addStretch(1)
    return made


class TickList(QWidget):
    """Items that are ticked one by one; each is a wide button with its box."""

    def __init__(self, tick: Callable[[int], object]) -> None:
        super().__init__()
        self._buttons: list[QPushButton] = []
        self._tick = tick
        self._column = QVBoxLayout(self)
        self._column.setContentsMargins(0, 0, 0, 0)
        self._column.setSpacing(2)

    def show_items(self, items: tuple[str, ...], done: tuple[bool, ...]) -> None:
        """Show items and which of them are ticked."""
        while len(self._buttons) < len(items):
            self._add(len(self._buttons))
        for index, made in enumerate(self._buttons):
            made.setVisible(index < len(items))
            if index < len(items):
                made.setChecked(done[index])
                made.setText(f"{'●' if done[index] else '○'}  {items[index]}")
                made.setAccessibleName(items[index])

    def _add(self, index: int) -> None:
        # No button group: in one, only a single button is reached by Tab.
        made = QPushButton()
        made.setObjectName("tick")
        made.setCheckable(True)
        made.setMinimumHeight(30)
        # A press leaves the focus where it was: Space still fires.
        made.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        made.clicked.connect(lambda: self._tick(index))
        self._buttons.append(made)
        self._column.addWidget(made)

    @property
    def buttons(self) -> list[QPushButton]:
        """The items as they are pressed."""
        return self._buttons
