"""The shots that were found, as a model: their numbers at once, their records when they come into view."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Collection
from typing import Any

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QAbstractTableModel, QModelIndex, QObject, Qt, QTimer, Signal

from ondine.logbook.records import ShotRecord
from ondine.ui.kit.shot_list import SHOT, Index, shot_words
from ondine.ui.log.columns import COLUMNS

PAGE = 60
MOST_KEPT = 4000
"""So many records are held; others are read again when they come into view."""


class ShotsModel(QAbstractTableModel):
    """One row a shot; column 0 carries the record. Emits `wanted(numbers)` for records that come into view."""

    wanted = Signal(list)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.ids: NDArray[np.int64] = np.empty(0, np.int64)
        self._records: OrderedDict[int, ShotRecord] = OrderedDict()
        self._lost: set[int] = set()
        self._asked: set[int] = set()
        self._missing: set[int] = set()
        # What one picture of the view lacks is asked for together.
        self._ask = QTimer(self)
        self._ask.setSingleShot(True)
        self._ask.setInterval(0)
        self._ask.timeout.connect(self._ask_for_missing)

    def set_ids(self, ids: NDArray[np.int64]) -> None:
        """Show other shots."""
        self.beginResetModel()
        self.ids = ids
        self._missing.clear()
        self.endResetModel()

    def take(self, asked: Collection[int], shots: dict[int, ShotRecord]) -> None:
        """Take records that were asked for; those that did not come cannot be read."""
        # What was forgotten meanwhile is asked for anew.
        wanted = self._asked.intersection(asked)
        self._asked -= wanted
        self._lost.update(wanted.difference(shots))
        self._keep({number: shot for number, shot in shots.items() if number in wanted})
        self._tell_changed()

    def change(self, shots: dict[int, ShotRecord]) -> None:
        """Replace what is known of shots."""
        self._keep({number: shot for number, shot in shots.items() if number in self._records})
        self._tell_changed()

    def forget(self) -> None:
        """Read all records anew when they come into view."""
        for kept in (self._records, self._lost, self._asked):
            kept.clear()
        self._tell_changed()

    def _keep(self, shots: dict[int, ShotRecord]) -> None:
        self._lost.difference_update(shots)
        self._records.update(shots)
        while len(self._records) > MOST_KEPT:
            self._records.popitem(last=False)

    def _tell_changed(self) -> None:
        if len(self.ids):
            self.dataChanged.emit(self.index(0, 0), self.index(len(self.ids) - 1, len(COLUMNS) - 1))

    def row_of(self, shot_id: int) -> int | None:
        """Return where a shot stands, None if it is not among those found."""
        rows = np.flatnonzero(self.ids == shot_id)
        return int(rows[0]) if len(rows) else None

    def record(self, row: int) -> ShotRecord | None:
        """Return the record of a row; None while it is being read, or if it cannot be."""
        number = int(self.ids[row])
        found = self._records.get(number)
        if found is not None:
            self._records.move_to_end(number)
        elif number not in self._lost and number not in self._asked:
            first = row // PAGE * PAGE
            page = (int(n) for n in self.ids[first : first + PAGE])
            self._missing.update(n for n in page if n not in self._records and n not in self._asked)
            self._ask.start()
        return found

    def _ask_for_missing(self) -> None:
        # What was scrolled by meanwhile is not read.
        missing = list(self._missing)[-4 * PAGE :]
        self._missing.clear()
        if missing:
            self._asked.update(missing)
            self.wanted.emit(missing)

    # See QAbstractTableModel

    def rowCount(self, parent: Index = QModelIndex()) -> int:  # noqa: B008
        """How many shots."""
        return 0 if parent.isValid() else len(self.ids)

    def columnCount(self, parent: Index = QModelIndex()) -> int:  # noqa: B008
        """How many columns of the table."""
        return 0 if parent.isValid() else len(COLUMNS)

    def headerData(self, section: int, orientation: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        """Name the columns."""
        if orientation is not Qt.Orientation.Horizontal:
            return None
        if role == Qt.ItemDataRole.DisplayRole:
            return COLUMNS[section].name
        return COLUMNS[section].alignment if role == Qt.ItemDataRole.TextAlignmentRole else None

    def data(self, index: Index, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        """Give the record, a cell's text, or words for hover and hearing."""
        if not index.isValid():
            return None
        shot = self.record(index.row())
        if role == SHOT:
            return shot
        if role == Qt.ItemDataRole.TextAlignmentRole:
            return COLUMNS[index.column()].alignment
        if shot is None:
            lost = int(self.ids[index.row()]) in self._lost
            shown = index.column() == 0 and role in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.AccessibleTextRole)
            return (f"{self.ids[index.row()]}: cannot be read" if lost else "…") if shown else None
        if role == Qt.ItemDataRole.DisplayRole:
            return COLUMNS[index.column()].text(shot)
        if role in (Qt.ItemDataRole.ToolTipRole, Qt.ItemDataRole.AccessibleTextRole):
            return shot_words(shot)
        return None
