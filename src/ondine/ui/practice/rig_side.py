"""A hidden rig to search on: chosen, under way, or over."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import Signal
from PySide6.QtWidgets import (
    QButtonGroup,
    QComboBox,
    QGridLayout,
    QLabel,
    QLayout,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from ondine.bench.simulated.levels import Level
from ondine.core.forecast.shapes import BY_KEY
from ondine.core.numbers import counted
from ondine.ui.kit.parts import button, row, words
from ondine.ui.kit.theme import BODY_PX, GRID_PX, LARGE_PX, font

if TYPE_CHECKING:
    # Nobody practises in the first frame.
    from ondine.studio.practice.book import Run
    from ondine.studio.practice.truth import Truth

ABOUT = (
    "Somebody has built a table and measured it as well as one does. What it hides nobody tells you: how late the "
    "flash is, how soon a drop lets go, how far the tape was wrong. Find the goal in as few shots as you can."
)
LEVELS = {
    Level.EASY: "A steady valve, and a flash that is not late.",
    Level.NORMAL: "A flash up to 40 ms late, drops that vary by a millisecond.",
    Level.TREACHEROUS: "Anything that a table can be: a flash up to 120 ms late, the flow a fifth wrong.",
}
UNDER_WAY = (
    "Fire on the bench, and press the letter of what each picture shows. The run ends with the first picture that "
    "shows the goal and that you have tagged so."
)


class RigSide(QWidget):
    """Emits `begun(level, goal, hints)`, `given_up()`, `left()` and `to_bench()`."""

    begun = Signal(object, str, bool)
    given_up = Signal()
    left = Signal()
    to_bench = Signal()

    def __init__(self, goals: tuple[str, ...]) -> None:
        super().__init__()
        self.title = QLabel()
        self.title.setFont(font(LARGE_PX, bold=True))
        self.title.setWordWrap(True)
        self.about_level = words("", soft=True)
        self.levels = {level: button(str(level).capitalize(), about) for level, about in LEVELS.items()}
        self.goal = QComboBox()
        self.goal.setAccessibleName("What to find")
        for key in goals:
            self.goal.addItem(f"Goal: {BY_KEY[key].name}", key)
        self.hints = button("With the coach's hints", "What it proposes, and what it has learned")
        self.hints.setCheckable(True)
        self.hints.setChecked(True)
        self.begin = button("Put the rig on the bench", "The simulated bench becomes this rig; yours comes back later")
        self.bench = button("To the bench", "Fire and tag there")
        self.give_up = button("Give up and show the rig", "The run counts as not found")
        self.another = button("Another rig", "Choose how hard it is to be")
        self.leave = button("Put my own table back", "What was in hand before comes back")
        self.which = words("")
        self.truths = QWidget()
        self.events = words("", soft=True)
        self.states = QStackedWidget()
        self._lay_out()
        self._follow_hands()
        self.levels[Level.EASY].setChecked(True)

    def _lay_out(self) -> None:
        choose = _column(
            words(ABOUT), row(*self.levels.values()), self.about_level, row(self.goal, self.hints), row(self.begin)
        )
        under_way = _column(words(UNDER_WAY), row(self.bench, self.give_up))
        self._truths_in = QVBoxLayout()
        over = _column(self._truths_in, self.events, row(self.another, self.leave))
        for state in (choose, under_way, over):
            self.states.addWidget(state)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(GRID_PX)
        column.addWidget(self.title)
        column.addWidget(self.which)
        column.addWidget(self.states, 1)

    def _follow_hands(self) -> None:
        group = QButtonGroup(self)
        for level, one in self.levels.items():
            one.setCheckable(True)
            group.addButton(one)
            one.toggled.connect(lambda on, about=LEVELS[level]: self._say_level(about, on))
        self.begin.clicked.connect(self._begin)
        self.bench.clicked.connect(self.to_bench)
        self.give_up.clicked.connect(self.given_up)
        self.another.clicked.connect(self.choose)
        self.leave.clicked.connect(self.left)

    def _say_level(self, about: str, on: bool) -> None:
        if on:
            self.about_level.setText(about)

    def _begin(self) -> None:
        level = next(level for level, one in self.levels.items() if one.isChecked())
        self.begun.emit(level, self.goal.currentData(), self.hints.isChecked())

    def choose(self) -> None:
        """Offer the next rig."""
        self.title.setText("A hidden rig")
        self.which.hide()
        self.states.setCurrentIndex(0)
        self.begin.setFocus()

    def show_run(self, run: Run | None, truths: tuple[Truth, ...], events: str) -> None:
        """Show how things stand; `truths` and `events` are of a run that is over: what was hidden, and when a flash
        would have shown what.
        """
        if run is None:
            self.choose()
            return
        self.title.setText(state_words(run))
        self.which.setText(f"Rig {run.rig}, {run.level}, {'with' if run.hints else 'without'} hints")
        self.which.show()
        self.states.setCurrentIndex(2 if run.over else 1)
        self._truths_in.removeWidget(self.truths)
        self.truths.deleteLater()
        self.truths = _table(truths)
        self._truths_in.addWidget(self.truths)
        self.events.setText(f"For your last timing: {events}." if events else "")

    @property
    def first(self) -> QWidget:
        """What a key is likeliest to press now."""
        return (self.begin, self.bench, self.another)[self.states.currentIndex()]


def state_words(run: Run) -> str:
    """Say how a run stands."""
    goal, par = BY_KEY[run.goal].name, f", par {run.par}" if run.par else ""
    if not run.over:
        return f"{goal.capitalize()}: {shots_words(run.shots)}{' so far' if run.shots else ''}{par}"
    if not run.found:
        return f"Not found in {shots_words(run.shots)}{par}"
    return f"Found in {shots_words(run.shots)}{par}"


def shots_words(count: int) -> str:
    """Count shots."""
    return counted(count, "shot") if count else "no shot yet"


def _table(truths: tuple[Truth, ...]) -> QWidget:
    """Set what was hidden in three columns."""
    made = QWidget()
    grid = QGridLayout(made)
    grid.setContentsMargins(0, 0, 0, 0)
    grid.setHorizontalSpacing(4 * GRID_PX)
    grid.setVerticalSpacing(2)
    for column, heading in enumerate(("What the rig hid", "Expected", "Truly")):
        grid.addWidget(words(heading, soft=True), 0, column)
    for number, one in enumerate(truths, start=1):
        truly = QLabel(one.truly)
        truly.setFont(font(BODY_PX, bold=True))
        name, thought = QLabel(one.name), QLabel(one.thought)
        for column, label in enumerate((name, thought, truly)):
            grid.addWidget(label, number, column)
    grid.setColumnStretch(3, 1)
    return made


def _column(*parts: QWidget | QLayout) -> QWidget:
    made = QWidget()
    column = QVBoxLayout(made)
    column.setContentsMargins(0, 0, 0, 0)
    column.setSpacing(GRID_PX)
    for part in parts:
        if isinstance(part, QWidget):
            column.addWidget(part)
        else:
            column.addLayout(part)
    column.addStretch(1)
    return made
