"""The practice place: a hidden rig and pictures to name over the water, the record under it; or a round over all."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QPoint, QRectF, QTimer, Signal
from PySide6.QtGui import QPainter, QPaintEvent, QPen, QResizeEvent
from PySide6.QtWidgets import QFrame, QHBoxLayout, QScrollArea, QStackedWidget, QVBoxLayout, QWidget

from ondine.bench.simulated.levels import Level
from ondine.ui.kit.parts import words
from ondine.ui.kit.pictures import PictureLoader
from ondine.ui.kit.theme import DAY, GRID_PX, Theme
from ondine.ui.practice.naming_side import NamingRound, NamingSide
from ondine.ui.practice.paths import Path, Paths
from ondine.ui.practice.record_chart import RecordChart
from ondine.ui.practice.rig_side import RigSide

if TYPE_CHECKING:
    # Nobody practises in the first frame.
    from ondine.studio.practice.book import PracticeBook, Run
    from ondine.studio.practice.truth import Truth

MARGIN_PX, RECORD_PX = 6 * GRID_PX, 176


class PracticePage(QWidget):
    """Holds the two sides and the round. Emits `water_moved()` when the waterline runs elsewhere."""

    water_moved = Signal()

    def __init__(self, loader: PictureLoader, goals: tuple[str, ...]) -> None:
        super().__init__()
        self.theme: Theme = DAY
        self.rig, self.naming, self.round = RigSide(goals), NamingSide(), NamingRound(loader)
        self.paths, self.record, self.best = Paths(), RecordChart(), words("", soft=True)
        self.beside = QStackedWidget()
        self.beside.addWidget(self.naming)
        self.beside.addWidget(self.paths)
        self._under_water = QWidget()
        self._under_water.setFixedHeight(RECORD_PX)
        self.stack = QStackedWidget()
        self._lay_out()
        self.rig.another.clicked.connect(lambda: self.beside.setCurrentWidget(self.naming))

    def _lay_out(self) -> None:
        both = QWidget()
        across = QHBoxLayout(both)
        across.setContentsMargins(MARGIN_PX, 4 * GRID_PX, MARGIN_PX, GRID_PX)
        across.setSpacing(8 * GRID_PX)
        across.addWidget(self.rig, 3)
        across.addWidget(self.beside, 2)
        scroll = QScrollArea()
        scroll.setWidgetResizable(True)
        scroll.setFrameShape(QFrame.Shape.NoFrame)
        scroll.setWidget(both)
        water = QVBoxLayout(self._under_water)
        water.setContentsMargins(MARGIN_PX, 0, MARGIN_PX, GRID_PX)
        water.addWidget(self.record, 1)
        water.addWidget(self.best)
        home = QWidget()
        column = QVBoxLayout(home)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(scroll, 1)
        column.addWidget(self._under_water)
        self.stack.addWidget(home)
        self.stack.addWidget(self.round)
        whole = QVBoxLayout(self)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.addWidget(self.stack)

    @property
    def is_naming(self) -> bool:
        """Whether a round is in view."""
        return self.stack.currentWidget() is self.round

    def show_round(self, on: bool) -> None:
        """Show the round, or the two sides."""
        self.stack.setCurrentIndex(int(on))
        if not on:
            self.round.halt()
        QTimer.singleShot(0, self, self._move_water)

    def show_book(self, book: PracticeBook, truths: tuple[Truth, ...], events: str, coach: Path | None) -> None:
        """Show how things stand; see `RigSide.show_run`. `coach` is how the coach found it, None while it searches."""
        run = book.run
        self.rig.show_run(run, truths, events)
        is_over = run is not None and run.over
        self.beside.setCurrentWidget(self.paths if is_over else self.naming)
        if run is not None and is_over:
            self.paths.show_paths(tuple((shown.sequence, shown.shape) for shown in book.shown[: run.shots]), coach)
        self.record.show_runs(book.runs)
        self.best.setText(best_words(book.runs))
        self.naming.show_rounds(book.rounds)

    def water_line(self) -> float:
        """Where the waterline runs on this page."""
        if self.is_naming:
            return float(self.round.bar.mapTo(self, QPoint(0, 0)).y())
        return float(self.height() - RECORD_PX)

    def resizeEvent(self, event: QResizeEvent) -> None:
        """Carry the waterline along."""
        super().resizeEvent(event)
        # What lies within is laid out only after this.
        QTimer.singleShot(0, self, self._move_water)

    def _move_water(self) -> None:
        self.water_moved.emit()
        self.update()

    def set_theme(self, theme: Theme) -> None:
        """Apply the theme."""
        self.theme = self.record.theme = theme
        self.round.set_theme(theme)
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        """Air above, water below, one line between them."""
        with QPainter(self) as p:
            y = self.water_line()
            p.fillRect(self.rect(), self.theme.colour("air"))
            p.fillRect(QRectF(0, y, self.width(), self.height() - y), self.theme.colour("water"))
            p.setPen(QPen(self.theme.colour("water_ink"), 2))
            p.drawLine(0, round(y), self.width(), round(y))
            p.setPen(self.theme.colour("line"))
            p.drawLine(0, 0, 0, self.height())


def best_words(runs: tuple[Run, ...]) -> str:
    """Say the best run of each level, and how often it was at par or under it; and how to read the marks."""
    told = []
    for level in Level:
        found = [run for run in runs if run.level is level and run.found]
        if found:
            at_par = sum(run.shots <= run.par for run in found if run.par)
            told.append(f"{level} {min(run.shots for run in found)} (par or better: {at_par} of {len(found)})")
    if not told:
        return ""
    return (
        f"Fewest shots: {', '.join(told)}. Filled: without hints. Line: par, the median of five searches by the coach."
    )
