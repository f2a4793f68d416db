"""Two searches on one hidden rig beside each other: one's own, and the coach's."""

from __future__ import annotations

from PySide6.QtWidgets import QLabel, QVBoxLayout, QWidget

from ondine.core.coach.words import timing_words
from ondine.core.forecast.shapes import BY_KEY
from ondine.core.numbers import counted
from ondine.core.timing.sequence import Sequence
from ondine.ui.kit.parts import words
from ondine.ui.kit.theme import BODY_PX, GRID_PX, font

Path = tuple[tuple[Sequence, str], ...]
"""Each shot's sequence, and the shape that it showed."""

MOST_LINES = 7


class Paths(QWidget):
    """Lists both, one under the other."""

    def __init__(self) -> None:
        super().__init__()
        self._column = QVBoxLayout(self)
        self._column.setContentsMargins(0, GRID_PX, 0, 0)
        self._column.setSpacing(2)

    def show_paths(self, own: Path, coach: Path | None) -> None:
        """Show other searches; None while the coach still searches."""
        while self._column.count():
            item = self._column.takeAt(0)
            part = item.widget() if item is not None else None
            if part is not None:
                part.deleteLater()
        self._add("Your shots", lines(own) or ["None."])
        self._add("The coach's, on the same rig", ["It is searching."] if coach is None else lines(coach))
        self._column.addStretch(1)

    def _add(self, title: str, told: list[str]) -> None:
        heading = QLabel(title)
        heading.setFont(font(BODY_PX, bold=True))
        self._column.addWidget(heading)
        for line in told:
            self._column.addWidget(words(line))
        self._column.addSpacing(GRID_PX)


def lines(path: Path) -> list[str]:
    """Write a search: the timing of each shot, and what it showed; of many the last ones."""
    told = [
        f"{n}   {timing_words(sequence)}: {BY_KEY[shape].name}" for n, (sequence, shape) in enumerate(path, start=1)
    ]
    left_out = len(told) - MOST_LINES
    return told if left_out <= 0 else [f"{counted(left_out, 'shot')} before", *told[left_out:]]
