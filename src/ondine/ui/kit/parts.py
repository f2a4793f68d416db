"""The plain parts of a page: a line of words, a button with an edge, a row."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QWidget

from ondine.ui.kit.theme import BODY_PX, GRID_PX, SMALL_PX, font


def words(text: str, soft: bool = False) -> QLabel:
    """Make words that wrap; `soft` ones are smaller."""
    label = QLabel(text)
    label.setFont(font(SMALL_PX if soft else BODY_PX))
    label.setWordWrap(True)
    if soft:
        label.setObjectName("soft")
    return label


def button(text: str, tip: str, does: Callable[[], object] | None = None) -> QPushButton:
    """Make a button with an edge."""
    made = QPushButton(text)
    made.setObjectName("edged")
    made.setFont(font(BODY_PX))
    made.setMinimumHeight(40)
    made.setToolTip(tip)
    if does is not None:
        made.clicked.connect(lambda: does())
    return made


def row(*controls: QWidget) -> QHBoxLayout:
    """Put controls beside each other, at the left."""
    made = QHBoxLayout()
    made.setSpacing(GRID_PX)
    for control in controls:
        made.addWidget(control, 0, Qt.AlignmentFlag.AlignLeft)
    made.addStretch(1)
    return made
