"""The sequence in numbers: interval and flash large, the drops beside them, and the steps that change it."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QLabel, QPushButton, QWidget

from ondine.core.forecast.counting import Counting, bare
from ondine.core.forecast.events import EventKind
from ondine.core.forecast.prediction import Prediction
from ondine.core.numbers import plus_minus_ms
from ondine.core.setup import Counts
from ondine.core.timing.limits import MAX_DROPS, MAX_FLASHES
from ondine.core.timing.sequence import Sequence
from ondine.ui.kit.number_field import MillisecondField, TitledField
from ondine.ui.kit.theme import GRID_PX, SMALL_PX, font

LEAST_PX, MOST_PX, SMALL_FIELD_PX = 148, 184, 72

Change = Callable[[Sequence], Sequence]

COLUMNS = 4
"""So many drops have their numbers in the row: the one in hand and its neighbours."""


class Numbers(QWidget):
    """Emits `composed(change, gesture)` with a function from the sequence in hand to the one that is wanted,
    `settled()` when the hand has finished with a field, `counted_otherwise(whether the flash is meant)`.
    """

    composed = Signal(object, str)
    settled = Signal()
    counted_otherwise = Signal(bool)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.interval = MillisecondField("Interval from drop 1 to drop 2", large=True)
        self.flash = MillisecondField("Flash delay", large=True)
        self.interval_block = TitledField("Drop 2 after drop 1", self.interval, "Count the drops otherwise  Ctrl K")
        self.flash_block = TitledField("", self.flash, "Count the flash from something else  Ctrl Shift K")
        self.titles = [QLabel() for _ in range(COLUMNS)]
        self.opens = [MillisecondField("", large=False) for _ in range(COLUMNS)]
        self.waits = [MillisecondField("", large=False) for _ in range(COLUMNS)]
        self.step = QPushButton("Step 1 ms")
        self.add_drop, self.add_flash = QPushButton("Add drop"), QPushButton("Add flash")
        self.remove = QPushButton("Remove")
        self._sequence: Sequence | None = None
        self._counting: Counting | None = None
        self._flash, self._first = 0, 0
        self._lay_out()
        self._connect()

    def _lay_out(self) -> None:
        for button, says in (
            (self.step, "Step of the arrow keys: fine or finest; Shift makes it 5 ms  ."),
            (self.add_drop, "Add a drop like the last one  Ins"),
            (self.add_flash, "Add a flash 5 ms after the last one  Shift Ins"),
            (self.remove, "Remove what is selected  Del"),
        ):
            button.setToolTip(says)
            button.setMinimumHeight(32)
            button.setFont(font(SMALL_PX))
            # A press leaves the focus where it was: the next Space fires.
            button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(2 * GRID_PX)
        for block in (self.interval_block, self.flash_block):
            block.setMinimumWidth(LEAST_PX)
            block.setMaximumWidth(MOST_PX)
            row.addWidget(block, 1)
        row.addLayout(self._drop_table(), 1)

    def _drop_table(self) -> QGridLayout:
        """Each drop's open time; under those after the second, when they start, as the drops are counted."""
        table = QGridLayout()
        table.setHorizontalSpacing(GRID_PX)
        table.setVerticalSpacing(0)
        for column, (title, opens, waits) in enumerate(zip(self.titles, self.opens, self.waits, strict=True)):
            title.setFont(font(SMALL_PX))
            title.setObjectName("soft")
            title.setBuddy(opens)
            for row, widget in enumerate((title, opens, waits)):
                table.addWidget(widget, row, column)
            for field in (opens, waits):
                field.setMinimumHeight(26)
                field.setFixedWidth(SMALL_FIELD_PX)
        buttons = QHBoxLayout()
        buttons.setSpacing(4)
        for button in (self.step, self.add_drop, self.add_flash, self.remove):
            buttons.addWidget(button)
        buttons.addStretch(1)
        table.addLayout(buttons, 3, 0, 1, COLUMNS + 1)
        table.setColumnStretch(COLUMNS, 1)
        return table

    @property
    def fields(self) -> list[MillisecondField]:
        """All fields, in reading order."""
        return [self.interval, self.flash, *self.opens, *self.waits]

    def _connect(self) -> None:
        self.interval.edited.connect(lambda us: self._wait_typed(1, us))
        self.flash.edited.connect(self._flash_typed)
        self.interval_block.pressed.connect(lambda: self.counted_otherwise.emit(False))
        self.flash_block.pressed.connect(lambda: self.counted_otherwise.emit(True))
        for column, (opens, waits) in enumerate(zip(self.opens, self.waits, strict=True)):
            opens.edited.connect(lambda us, c=column: self._open_typed(c, us))
            waits.edited.connect(lambda us, c=column: self._wait_typed(self._first + c, us))
        for field in self.fields:
            field.editingFinished.connect(self.settled)

    def _flash_typed(self, delay_us: int) -> None:
        flash, counting = self._flash, self._counting
        if counting is not None:
            # Counted from where it is shown: what the fields say and what is typed mean the same.
            self._compose(
                lambda s: counting.with_delay(s, flash, delay_us),
                f"field flash {flash}",
                lambda s: flash < len(s.flashes),
            )

    def _open_typed(self, column: int, open_us: int) -> None:
        drop = self._first + column
        self._compose(lambda s: s.with_open(drop, open_us), f"open {drop}", lambda s: drop < len(s.drops))

    def _wait_typed(self, drop: int, wait_us: int) -> None:
        counting = self._counting
        if counting is not None:
            self._compose(
                lambda s: counting.with_wait(s, drop, wait_us), f"field wait {drop}", lambda s: drop < len(s.drops)
            )

    def _compose(self, change: Change, gesture: str, still: Callable[[Sequence], bool]) -> None:
        """Ask for a change of a drop or a flash that is still there: a field gives its number up when it is hidden."""
        self.composed.emit(lambda s: change(s) if still(s) else s, gesture)

    def set_step(self, step_us: int) -> None:
        """Let arrow keys and wheel move the fields by this much."""
        self.step.setText(f"Step {step_us / 1000:g} ms")
        for field in self.fields:
            field.setSingleStep(step_us / 1000)

    # What it shows

    def show_sequence(
        self, sequence: Sequence, counting: Counting, flash: int, drop: int | None, several: bool
    ) -> None:
        """Show a sequence as it is counted: the flash in hand, and the drop in hand with its neighbours.

        drop : None where none is held; several : whether more than one item is selected.
        """
        self._sequence, self._counting, self._flash = sequence, counting, flash
        count = len(sequence.drops)
        if drop is not None:
            self._first = min(self._first, drop)
            self._first = max(self._first, drop - COLUMNS + 1)
        self._first = max(min(self._first, count - COLUMNS), 0)
        flashes = len(sequence.flashes)
        name = f"Flash {flash + 1} of {flashes}" if flashes > 1 else "Flash"
        self.flash_block.title.show_text(f"{name} from {bare(counting.light_from)}")
        self.flash.setEnabled(bool(sequence.flashes))
        if sequence.flashes:
            self.flash.count_from(counting.base_us)
            self.flash.display(counting.delay_us(sequence, flash))
        self.interval.setEnabled(count > 1)
        self.interval_block.title.show_text(_INTERVAL[counting.convention.counts])
        self.interval.setAccessibleName(_wait_name(2, counting.convention.counts))
        if count > 1:
            self.interval.count_from(counting.wait_base_us(sequence, 1))
            self.interval.display(counting.wait_us(sequence, 1))
        for column in range(COLUMNS):
            self._show_column(column, sequence, counting.convention.counts)
        self.add_drop.setEnabled(count < MAX_DROPS)
        self.add_flash.setEnabled(flashes < MAX_FLASHES)
        self.remove.setText("Remove" if drop is None or several else f"Remove {drop + 1}")
        self.remove.setEnabled(several or (flashes > 1 if drop is None else count > 1))

    def _show_column(self, column: int, sequence: Sequence, counts: Counts) -> None:
        """Let a column of the row show its drop, or nothing."""
        drop = self._first + column
        there = drop < len(sequence.drops)
        title, opens, waits = self.titles[column], self.opens[column], self.waits[column]
        for widget in (title, opens):
            widget.setVisible(there)
        waits.setVisible(there and drop > 1)
        if not there:
            return
        text, name = f"{drop + 1} open", _wait_name(drop + 1, counts)
        if title.text() != text or waits.accessibleName() != name:
            title.setText(text)
            waits.setPrefix("" if counts is Counts.ABSOLUTE else "+")
            for field, says in ((opens, f"Open time of drop {drop + 1}"), (waits, name)):
                field.setAccessibleName(says)
                field.setToolTip(says)
        opens.display(sequence.drops[drop].open_us)

    def show_waits(self) -> None:
        """Write when the drops after the second start: they only follow the hand."""
        if self._sequence is not None and self._counting is not None:
            for column, field in enumerate(self.waits):
                if self._first + column < len(self._sequence.drops):
                    field.count_from(self._counting.wait_base_us(self._sequence, self._first + column))
                    field.display(self._counting.wait_us(self._sequence, self._first + column))

    def show_words(self, prediction: Prediction) -> None:
        """Say under the large numbers what they make."""
        self.flash_block.meaning.set_text(_widest_words(prediction))
        self.interval_block.meaning.set_text(_meeting_words(prediction))


_INTERVAL = {
    Counts.ABSOLUTE: "Drop 2 from trigger",
    Counts.START_TO_START: "Drop 2 after drop 1",
    Counts.CLOSING_TO_OPENING: "Gap before drop 2",
}


def _wait_name(drop: int, counts: Counts) -> str:
    """Name what is typed for a drop, counted from 1."""
    if counts is Counts.ABSOLUTE:
        return f"Start of drop {drop} from the trigger"
    noun = "Interval" if counts is Counts.START_TO_START else "Gap"
    return f"{noun} from drop {drop - 1} to drop {drop}"


def _meeting_words(prediction: Prediction) -> str:
    if len(prediction.sequence.drops) < 2:
        return "one drop only"
    first, second = prediction.sequence.drops[:2]
    apart = f"gap {(second.start_us - first.end_us) / 1000:g} ms"
    gap = apart if first.valve == second.valve else f"valves {first.valve + 1} and {second.valve + 1}"
    event = prediction.event(EventKind.MEETING)
    if event is None or event.probability < 0.05:
        return f"{gap}, no meeting"
    return f"{gap}, meet {event.probability:.0%}"


def _widest_words(prediction: Prediction) -> str:
    event = prediction.event(EventKind.SHEET_FULL) or prediction.event(EventKind.JET_TOP)
    if event is None:
        return ""
    return f"{event.kind} at {plus_minus_ms(event.time_s.mean, event.time_s.sd)}"
