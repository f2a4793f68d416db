"""A table that others wrote: what each of its columns means, and what its rows come to."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QComboBox, QFrame, QGridLayout, QLabel, QScrollArea, QVBoxLayout, QWidget

from ondine.core.numbers import counted
from ondine.ui.kit.parts import button, words
from ondine.ui.kit.theme import BODY_PX, GRID_PX, SMALL_PX, font

if TYPE_CHECKING:
    # The logbook stands behind them.
    from ondine.logbook.column_map import Meaning
    from ondine.logbook.foreign_table import ForeignTable
    from ondine.logbook.import_table import Import

ASIDE, WHICH = "leave aside", "say what it means"
MOST_SAID = 5
DATES = (("As the dates tell", ""), ("Day first, 23/05", "day first"), ("Month first, 05/23", "month first"))


class TableMapPage(QScrollArea):
    """Emits `meant()` when a column means something else, and `taken()`."""

    meant = Signal()
    taken = Signal()

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWidgetResizable(True)
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setAccessibleName("Table that others wrote")
        self.fields: dict[str, QComboBox] = {}
        self.units: dict[str, QComboBox] = {}
        self.head = words("")
        self.dates = QComboBox()
        self.dates.setAccessibleName("How dates are meant")
        for name, value in DATES:
            self.dates.addItem(name, value)
        self.dates.currentIndexChanged.connect(lambda _: self.meant.emit())
        self.said = words("")
        self.take = button("Take in", "They are logged with the table in hand; a copy of the logbook is kept first")
        self.take.clicked.connect(self.taken)
        self.left_out = words("", soft=True)
        self.columns = QWidget()
        body = QWidget()
        self._column = QVBoxLayout(body)
        self._column.setContentsMargins(0, 0, GRID_PX, 0)
        self._column.setSpacing(GRID_PX)
        for part in (self.head, self.said, self.take, self.left_out, self.columns, self.dates):
            self._column.addWidget(part)
        self._column.addStretch(1)
        self.setWidget(body)
        self.show_understood(None, "")

    def show_table(self, name: str, table: ForeignTable, meanings: dict[str, Meaning]) -> None:
        """Show the columns of a table, and what they may mean."""
        from ondine.logbook.column_map import ASKED, FIELDS, Unit

        self.head.setText(f"{name}: {table.words}.")
        self.fields, self.units = {}, {}
        page = QWidget()
        grid = QGridLayout(page)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setVerticalSpacing(2)
        for row, column in enumerate(table.columns):
            sample = next((cells[row] for _, cells in table.rows if cells[row]), "")
            label = QLabel(column)
            label.setFont(font(BODY_PX, bold=True))
            label.setToolTip(column)
            example = QLabel(sample[:40])
            example.setObjectName("soft")
            example.setFont(font(SMALL_PX))
            means, unit = QComboBox(), QComboBox()
            means.setAccessibleName(f"What {column} means")
            unit.setAccessibleName(f"Unit of {column}")
            known = meanings.get(column)
            if known is not None and known.field == ASKED:
                means.addItem(WHICH, ASKED)
            means.addItem(ASIDE, "")
            for field in FIELDS:
                means.addItem(field.name, field.key)
            for one in Unit:
                unit.addItem(one.value, one)
            if known is not None:
                means.setCurrentIndex(means.findData(known.field))
                unit.setCurrentIndex(unit.findText(known.unit.value))
            for box in (means, unit):
                box.setMinimumContentsLength(4)
                box.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
                box.currentIndexChanged.connect(lambda _: self._changed())
            self.fields[column], self.units[column] = means, unit
            grid.addWidget(label, 2 * row, 0)
            grid.addWidget(example, 2 * row, 1, 1, 2)
            grid.addWidget(means, 2 * row + 1, 0, 1, 2)
            grid.addWidget(unit, 2 * row + 1, 2)
        grid.setColumnStretch(1, 1)
        self._column.replaceWidget(self.columns, page)
        self.columns.deleteLater()
        self.columns = page
        self._show_units()

    def _changed(self) -> None:
        self._show_units()
        self.meant.emit()

    def _show_units(self) -> None:
        from ondine.logbook.column_map import BY_KEY

        for column, box in self.fields.items():
            field = BY_KEY.get(str(box.currentData()))
            self.units[column].setVisible(field is not None and field.is_time)

    @property
    def meanings(self) -> dict[str, Meaning]:
        """What the columns mean now; those left aside are not among them."""
        from ondine.logbook.column_map import Meaning, Unit

        return {
            column: Meaning(str(box.currentData()), Unit(self.units[column].currentText()))
            for column, box in self.fields.items()
            if box.currentData()
        }

    @property
    def dates_meant(self) -> str:
        """How dates of numbers alone are meant; nothing where the dates themselves shall tell."""
        return str(self.dates.currentData())

    def show_understood(self, found: Import | None, said: str) -> None:
        """Show what the table comes to, or why it comes to nothing yet."""
        self.said.setText(said)
        count = 0 if found is None else len(found.shots)
        self.take.setText(f"Take in {counted(count, 'shot')}")
        self.take.setEnabled(count > 0)
        left_out = () if found is None else found.left_out
        more = f"\nAnd {len(left_out) - MOST_SAID} more." if len(left_out) > MOST_SAID else ""
        self.left_out.setText("\n".join(left_out[:MOST_SAID]) + more)
        self.left_out.setVisible(bool(left_out))
