"""All times of the sequence as a table, for those who like tables; and what they are counted from."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import (
    QApplication,
    QFormLayout,
    QGridLayout,
    QLabel,
    QPushButton,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from ondine.core.forecast.counting import Counting
from ondine.core.forecast.prediction import Prediction
from ondine.core.setup import Counts
from ondine.core.timing.arrange import with_camera
from ondine.core.timing.conventions import Convention, LightFrom
from ondine.core.timing.items import CAMERA_FIELDS, Item, Kind, drop, flash, has, name_of, time_us, times_shutter
from ondine.core.timing.sequence import Sequence
from ondine.ui.bench.selection import Selection
from ondine.ui.kit.fields import ChoiceField
from ondine.ui.kit.number_field import MillisecondField
from ondine.ui.kit.theme import GRID_PX, SMALL_PX, font

WIDE_PX, FIELD_PX, NAME_PX = 304, 88, 96
NOT_ASKED, NOT_ASKED_US = "not asked", -100
"""How a command to the camera is shown that is not given: one step before the trigger."""


class Row:
    """One item: its name, which selects it, its time, and for drops how long the valve is open."""

    def __init__(self, item: Item) -> None:
        self.item = item
        self.name = QPushButton()
        self.name.setObjectName("title")
        self.name.setCheckable(True)
        self.name.setFixedWidth(NAME_PX)
        self.at = MillisecondField("", large=False)
        self.open = MillisecondField("", large=False) if item.kind is Kind.DROP else None
        if item.kind not in (Kind.DROP, Kind.FLASH):
            self.at.setMinimum(NOT_ASKED_US / 1000)
            self.at.setSpecialValueText(NOT_ASKED)

    @property
    def widgets(self) -> list[QWidget]:
        """What it is made of, from the left."""
        return [self.name, self.at, *([self.open] if self.open is not None else [])]

    def show_item(self, sequence: Sequence, counting: Counting, at_us: int, selected: bool) -> None:
        """Show its numbers."""
        name = name_of(sequence, self.item).removeprefix("the ").capitalize()
        if self.name.text() != name:
            self.name.setText(name)
            self.name.setAccessibleName(f"Select {name.lower()}")
            self.at.setAccessibleName(f"{name}, time")
        self.name.setChecked(selected)
        if self.item.kind is Kind.DROP:
            self.at.count_from(counting.wait_base_us(sequence, self.item.index))
            self.at.display(counting.wait_us(sequence, self.item.index))
        elif self.item.kind is Kind.FLASH:
            self.at.count_from(counting.base_us)
            self.at.display(counting.delay_us(sequence, self.item.index))
        else:
            self.at.display(at_us)
        if self.open is not None:
            self.open.setAccessibleName(f"{name}, open time")
            self.open.display(sequence.drops[self.item.index].open_us)


class TimesTable(QWidget):
    """Emits `composed(change, gesture)` and `settled()` as the numbers do, `chosen(selection)`, and
    `counted(convention)` when times shall be counted otherwise.
    """

    composed = Signal(object, str)
    settled = Signal()
    chosen = Signal(object)
    counted = Signal(object)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setAccessibleName("All times")
        self.setFixedWidth(WIDE_PX)
        self.rows: dict[Item, Row] = {}
        self._counting: Counting | None = None
        self._selection = Selection()
        self.counts = ChoiceField("What drops are counted from", Counts)
        self.light_from = ChoiceField("What flashes are counted from", LightFrom)
        self.counts.edited.connect(lambda _: self._recount())
        self.light_from.edited.connect(lambda _: self._recount())
        choices = QFormLayout()
        choices.setContentsMargins(0, 0, 0, 0)
        choices.setVerticalSpacing(4)
        for words, field in (("Drops count", self.counts), ("Flash from", self.light_from)):
            label = _soft(words)
            label.setBuddy(field)
            choices.addRow(label, field)
        self._grid = QGridLayout()
        self._grid.setContentsMargins(0, 0, 0, 0)
        self._grid.setHorizontalSpacing(GRID_PX)
        self._grid.setVerticalSpacing(0)
        for column, words in enumerate(("", "at", "open")):
            self._grid.addWidget(_soft(words), 0, column)
        self._grid.setColumnStretch(3, 1)
        inside = QWidget()
        lines = QVBoxLayout(inside)
        lines.setContentsMargins(0, 0, 0, 0)
        lines.addLayout(self._grid)
        lines.addStretch(1)
        scroll = QScrollArea()
        scroll.setWidget(inside)
        scroll.setWidgetResizable(True)
        scroll.setFrameShape(QScrollArea.Shape.NoFrame)
        scroll.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        column_of = QVBoxLayout(self)
        column_of.setContentsMargins(0, GRID_PX, 0, 0)
        column_of.addLayout(choices)
        column_of.addWidget(scroll, 1)

    def _recount(self) -> None:
        counts, light_from = list(Counts)[self.counts.currentIndex()], list(LightFrom)[self.light_from.currentIndex()]
        self.counted.emit(Convention(counts, light_from))

    def show_sequence(self, prediction: Prediction, counting: Counting, selection: Selection) -> None:
        """Show the numbers of all items."""
        self._counting, self._selection = counting, selection
        self.counts.display(counting.convention.counts)
        self.light_from.display(counting.convention.light_from)
        sequence, setup = prediction.sequence, prediction.forecast.setup
        wanted = [*map(drop, range(len(sequence.drops))), *map(flash, range(len(sequence.flashes)))]
        if times_shutter(setup):
            wanted += [Item(kind) for kind in CAMERA_FIELDS]
        if list(self.rows) != wanted:
            self._lay_out(wanted)
        for item, row in self.rows.items():
            at_us = time_us(sequence, item, setup) if has(sequence, item, setup) else NOT_ASKED_US
            row.show_item(sequence, counting, at_us, item in selection.items)

    def _lay_out(self, wanted: list[Item]) -> None:
        """Let there be a row for each item, in order."""
        for row in self.rows.values():
            for widget in row.widgets:
                self._grid.removeWidget(widget)
                widget.setVisible(False)
        gone = [row for item, row in self.rows.items() if item not in wanted]
        self.rows = {item: self.rows[item] if item in self.rows else self._made(item) for item in wanted}
        for row in gone:
            for widget in row.widgets:
                widget.deleteLater()
        for line, row in enumerate(self.rows.values(), start=1):
            for column, widget in enumerate(row.widgets):
                self._grid.addWidget(widget, line, column)
                widget.setVisible(True)

    def _made(self, item: Item) -> Row:
        row = Row(item)
        for widget in row.widgets:
            widget.setFont(font(SMALL_PX))
            widget.setMinimumHeight(26)
        for field, edit in ((row.at, _at), (row.open, _opened)):
            if field is not None:
                field.setFixedWidth(FIELD_PX)
                field.edited.connect(partial(self._compose, item, edit))
                field.editingFinished.connect(self.settled)
        row.name.clicked.connect(lambda: self._choose(item))
        return row

    def _compose(self, item: Item, edit: Callable[[Sequence, Item, int, Counting], Sequence], us: int) -> None:
        counting = self._counting
        if counting is not None and item in self.rows:
            self.composed.emit(lambda s: edit(s, item, us, counting), f"table {item} {edit.__name__}")

    def _choose(self, item: Item) -> None:
        together = bool(QApplication.keyboardModifiers() & Qt.KeyboardModifier.ControlModifier)
        self.chosen.emit(self._selection.with_toggled(item) if together else Selection(item))


def _at(sequence: Sequence, item: Item, us: int, counting: Counting) -> Sequence:
    if item.kind is Kind.DROP:
        return counting.with_wait(sequence, item.index, us) if item.index < len(sequence.drops) else sequence
    if item.kind is Kind.FLASH:
        return counting.with_delay(sequence, item.index, us) if item.index < len(sequence.flashes) else sequence
    return with_camera(sequence, item.kind, us if us >= 0 else None)


def _opened(sequence: Sequence, item: Item, us: int, counting: Counting) -> Sequence:
    return sequence.with_open(item.index, us) if item.index < len(sequence.drops) else sequence


def _soft(words: str) -> QLabel:
    label = QLabel(words)
    label.setObjectName("soft")
    label.setFont(font(SMALL_PX))
    return label
