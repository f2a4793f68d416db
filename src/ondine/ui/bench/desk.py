"""The sequence desk: chart, numbers, table and the line between them, over one sequence and one selection."""

from __future__ import annotations

from dataclasses import replace

from PySide6.QtCore import QObject, Signal
from PySide6.QtWidgets import QHBoxLayout

from ondine.core.forecast.counting import Counting
from ondine.core.forecast.prediction import Prediction
from ondine.core.setup import Counts
from ondine.core.timing.conventions import Convention
from ondine.core.timing.items import Kind
from ondine.core.timing.locks import Locks, lock_of
from ondine.ui.bench.desk_line import DeskLine
from ondine.ui.bench.flight_chart import FlightChart
from ondine.ui.bench.grips import Grip
from ondine.ui.bench.hints import what_hands_do, what_it_is
from ondine.ui.bench.numbers import Numbers
from ondine.ui.bench.times_table import TimesTable
from ondine.ui.kit.announce import announce
from ondine.ui.kit.choices import following
from ondine.ui.kit.theme import GRID_PX


class SequenceDesk(QObject):
    """Keeps its instruments at one: what is selected, how times are counted, what is locked.

    Emits `composed(change, gesture)` with a function from the sequence in hand to the one that is wanted, `settled()`
    when a hand has finished, `selected()`, `counted(convention)` when times shall be counted otherwise, `locking()`.
    """

    composed = Signal(object, str)
    settled = Signal()
    selected = Signal()
    counted = Signal(object)
    locking = Signal()

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.chart, self.line = FlightChart(), DeskLine()
        self.times, self.numbers = TimesTable(), Numbers()
        self.times.hide()
        self.prediction: Prediction | None = None
        self.convention = Convention(Counts.START_TO_START)
        self.flash_in_hand = 0
        self.chart.composed.connect(self.composed)
        self.chart.released.connect(self.settled)
        self.chart.selected.connect(self.selected)
        self.chart.pointed.connect(self.show_hint)
        self.chart.sight.changed.connect(lambda: self.line.whole.setHidden(self.chart.sight.is_whole))
        for fields in (self.numbers, self.times):
            fields.composed.connect(self.composed)
            fields.settled.connect(self.settled)
        self.numbers.counted_otherwise.connect(self.count_otherwise)
        self.numbers.step.clicked.connect(self.toggle_step)
        self.times.chosen.connect(self.chart.show_selection)
        self.times.counted.connect(self.counted)
        self.line.lock.clicked.connect(self.locking)
        self.line.snap.clicked.connect(self.change_snap)
        self.line.times.clicked.connect(self.toggle_times)
        self.line.whole.clicked.connect(self.chart.sight.show_whole)

    def layout_of_chart(self) -> QHBoxLayout:
        """Return the chart with the table beside it."""
        row = QHBoxLayout()
        row.setSpacing(2 * GRID_PX)
        row.addWidget(self.chart, 1)
        row.addWidget(self.times)
        return row

    # What hands choose

    def toggle_step(self) -> None:
        """Change the step of the arrow keys between a millisecond and a tenth."""
        self.chart.step_us = 100 if self.chart.step_us == 1_000 else 1_000
        self.numbers.set_step(self.chart.step_us)

    def change_snap(self) -> None:
        """Draw dragged parts to something else."""
        self.chart.snap = following(self.chart.snap)
        self.line.show_snap(self.chart.snap)

    def toggle_times(self) -> None:
        """Show all times as a table beside the chart, or not."""
        self.times.setVisible(self.times.isHidden())
        self.line.times.setChecked(not self.times.isHidden())
        self.show_numbers()

    def count_otherwise(self, light: bool) -> None:
        """Count the drops, or the flashes, from the next thing in turn."""
        now = self.convention
        if light:
            self.counted.emit(replace(now, light_from=following(now.light_from)))
        else:
            self.counted.emit(replace(now, counts=following(now.counts)))

    # What it shows

    def show_convention(self, convention: Convention) -> None:
        """Count times so."""
        self.convention = convention
        if self.prediction is not None:
            self.show_numbers()
            self.show_hint()
            self.chart.update()

    def show_prediction(self, prediction: Prediction, locks: Locks) -> None:
        """Show a sequence, its forecast, and what is locked; words follow."""
        self.prediction = prediction
        self.chart.locks = locks
        self.chart.selection = self.chart.selection.within(prediction.sequence, prediction.forecast.setup)
        self.take_flash()
        self.chart.show_prediction(prediction)
        self._show_sequence(prediction)

    def take_flash(self) -> bool:
        """Let the flash that was selected last be the one that picture and words follow; return whether it changes."""
        assert self.prediction is not None
        held, before = self.chart.selection.held, self.flash_in_hand
        last = max(len(self.prediction.sequence.flashes) - 1, 0)
        self.flash_in_hand = min(held.index if held.kind is Kind.FLASH else before, last)
        return self.flash_in_hand != before

    def show_numbers(self) -> None:
        """Write the sequence into the fields."""
        if self.prediction is None:
            return
        counting = self._show_sequence(self.prediction)
        self.numbers.show_waits()
        if not self.times.isHidden():
            self.times.show_sequence(self.prediction, counting, self.chart.selection)

    def _show_sequence(self, prediction: Prediction) -> Counting:
        counting, selection = Counting.of(self.convention, prediction), self.chart.selection
        self.chart.tells = counting.tells
        held = selection.held.index if selection.held.kind is Kind.DROP else None
        self.numbers.show_sequence(prediction.sequence, counting, self.flash_in_hand, held, bool(selection.others))
        return counting

    def show_words(self) -> None:
        """Say what the numbers make."""
        if self.prediction is not None:
            self.show_numbers()
            self.numbers.show_words(self.prediction)
            self.chart.ears.tell()

    def say(self, words: str) -> None:
        """Say what was done, where what is in hand is described, until the hand goes on."""
        self.line.show_words([words])
        announce(self.chart, words)

    def show_hint(self) -> None:
        """Say what lies under the cursor, or else what is in hand."""
        if self.prediction is None:
            return
        held, mark = self.chart.selection.held, self.chart.hand.mark
        grip = self.chart.hover or Grip(held)
        counting = Counting.of(self.convention, self.prediction)
        told = what_it_is(grip.item, self.prediction, counting, self.chart.locks)
        told += self.chart.open_ground if self.chart.hover is None and self.chart.open_ground else what_hands_do(grip)
        self.line.show_words([*([f"On: {mark.says}."] if mark is not None else []), *told])
        self.line.lock.setChecked(lock_of(self.chart.locks, held) is not None)
