"""What the coach has learned of the rig, in plain words, with one press to take each into the set-up."""

from __future__ import annotations

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QFrame, QLabel, QPushButton, QScrollArea, QVBoxLayout, QWidget

from ondine.studio.events import CoachSays
from ondine.ui.kit.theme import GRID_PX, SMALL_PX, font

NOTHING = (
    "Nothing yet. Fire, press the letter of what the picture shows, and this page fills: where the drop lands, whether "
    "the nozzle is as high as entered, how late the light is."
)


class CoachLearned(QScrollArea):
    """Shows the facts of `CoachSays`. Emits `corrected(correction)`."""

    corrected = Signal(object)

    def __init__(self) -> None:
        super().__init__()
        self.setAccessibleName("What was learned")
        self.setWidgetResizable(True)
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.uses: list[QPushButton] = []
        self._show([NOTHING])

    def show_learned(self, says: CoachSays) -> None:
        """Show other facts."""
        if not says.facts:
            self._show([NOTHING])
            return
        parts: list[str | QPushButton] = []
        self.uses = []
        for fact in says.facts:
            parts.append(fact.says)
            if fact.correction is not None:
                button = QPushButton("Take into the set-up")
                button.setToolTip("The entered value is put right. Nothing has moved, so all that was learned stays.")
                button.setAccessibleDescription(fact.says)
                button.clicked.connect(lambda _=False, one=fact.correction: self.corrected.emit(one))
                parts.append(button)
                self.uses.append(button)
        if says.taught_most:
            shots = ", ".join(map(str, says.taught_most))
            parts.append(f"Learned from {says.shots} tagged shots, most from {shots}.")
        parts += [f"Changed on the way: {change}." for change in says.changes]
        if says.doubt:
            parts.append(says.doubt)
        self._show(parts)

    def words(self) -> str:
        """Return all that is said."""
        page = self.widget()
        return "" if page is None else " ".join(label.text() for label in page.findChildren(QLabel))

    def _show(self, parts: list[str | QPushButton] | list[str]) -> None:
        page = QWidget()
        column = QVBoxLayout(page)
        column.setContentsMargins(0, 0, GRID_PX, 0)
        column.setSpacing(GRID_PX)
        for part in parts:
            if isinstance(part, str):
                label = QLabel(part)
                label.setWordWrap(True)
                label.setFont(font(SMALL_PX))
                column.addWidget(label)
            else:
                part.setFont(font(SMALL_PX))
                part.setObjectName("edged")
                part.setMinimumHeight(32)
                column.addWidget(part, 0, Qt.AlignmentFlag.AlignLeft)
        column.addStretch(1)
        self.setWidget(page)
