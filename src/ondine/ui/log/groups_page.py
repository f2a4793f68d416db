"""Shots of equal timing together: how often each timing was fired, and how often it hit."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from PySide6.QtCore import QAbstractTableModel, QModelIndex, QObject, Qt, Signal
from PySide6.QtWidgets import (
    QAbstractItemView,
    QComboBox,
    QHBoxLayout,
    QHeaderView,
    QLabel,
    QTableView,
    QVBoxLayout,
    QWidget,
)

from ondine.core.coach.repeating import wilson
from ondine.core.forecast.shapes import SHAPES
from ondine.core.numbers import counted
from ondine.logbook.records import ShotRecord
from ondine.ui.kit.own_shapes import own_shapes
from ondine.ui.kit.shot_list import Index, timing_words
from ondine.ui.kit.theme import GRID_PX, SMALL_PX, font

if TYPE_CHECKING:
    # SQLAlchemy stands behind it.
    from ondine.logbook.search import Group

HANDS = (
    "Of the tagged shots, with the limits that so few allow (95 %). Return or a double click shows a timing's shots."
)
KEEPERS = "keeper"
USUAL = "full-umbrella"
COLUMNS = (("Timing", 224), ("Sitting", 224), ("Shots", 64), ("Tagged", 64), ("Hits", 56), ("Hit rate", 176))
RIGHT = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
LEFT = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter
FIRST_NUMBER = 2


def rate_words(hits: int, known: int) -> str:
    """Say a share of hits with its limits, as whole percents; nothing where nothing is known."""
    if not known:
        return "not tagged"
    share = wilson(hits, known)
    return f"{share.share:.0%}  ({share.low:.0%}–{share.high:.0%})"


class GroupsModel(QAbstractTableModel):
    """One row a timing."""

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.groups: tuple[Group, ...] = ()
        self.shots: dict[int, ShotRecord] = {}

    def show(self, groups: tuple[Group, ...], shots: dict[int, ShotRecord]) -> None:
        """Show other groups."""
        self.beginResetModel()
        self.groups, self.shots = groups, shots
        self.endResetModel()

    def rowCount(self, parent: Index = QModelIndex()) -> int:  # noqa: B008
        """How many timings."""
        return 0 if parent.isValid() else len(self.groups)

    def columnCount(self, parent: Index = QModelIndex()) -> int:  # noqa: B008
        """How many columns."""
        return 0 if parent.isValid() else len(COLUMNS)

    def headerData(self, section: int, orientation: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        """Name the columns."""
        if orientation is not Qt.Orientation.Horizontal:
            return None
        if role == Qt.ItemDataRole.DisplayRole:
            return COLUMNS[section][0]
        return _alignment(section) if role == Qt.ItemDataRole.TextAlignmentRole else None

    def data(self, index: Index, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        """Give a cell's text, or all of the row for hover and hearing."""
        if not index.isValid():
            return None
        if role == Qt.ItemDataRole.TextAlignmentRole:
            return _alignment(index.column())
        cells = self._cells(self.groups[index.row()])
        if role == Qt.ItemDataRole.DisplayRole:
            return cells[index.column()]
        if role in (Qt.ItemDataRole.ToolTipRole, Qt.ItemDataRole.AccessibleTextRole):
            timing, sitting, shots, known, hits, rate = cells
            return f"{timing}, {sitting}: {counted(int(shots), 'shot')}, {hits} hits of {known}, {rate}"
        return None

    def _cells(self, group: Group) -> tuple[str, ...]:
        shot = self.shots.get(group.shot_id)
        timing, sitting = ("cannot be read", "") if shot is None else (timing_words(shot), shot.sitting)
        counts = (str(group.count), str(group.known), str(group.hits))
        return timing, sitting, *counts, rate_words(group.hits, group.known)


def _alignment(column: int) -> Qt.AlignmentFlag:
    return RIGHT if column >= FIRST_NUMBER else LEFT


class GroupsPage(QWidget):
    """Emits `asked(shape)` when other hits are counted; and for a timing, by its newest shot, `pointed(number)` when it
    comes under the cursor and `chosen(number)` when it is taken.
    """

    asked = Signal(str)
    chosen = Signal(int)
    pointed = Signal(int)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.model = GroupsModel(self)
        self.hit = QComboBox()
        self.hit.setAccessibleName("What counts as a hit")
        self.table = QTableView()
        self.table.setAccessibleName("Shots by equal timing")
        self.table.setModel(self.model)
        self.table.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.table.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.table.setTabKeyNavigation(False)
        self.table.setShowGrid(False)
        self.table.setWordWrap(False)
        self.table.verticalHeader().hide()
        self.table.verticalHeader().setDefaultSectionSize(3 * GRID_PX)
        for number, (_, width) in enumerate(COLUMNS):
            self.table.setColumnWidth(number, width)
        self.table.horizontalHeader().setSectionResizeMode(1, QHeaderView.ResizeMode.Stretch)
        self.table.selectionModel().currentRowChanged.connect(lambda *_: self._point())
        self.table.activated.connect(lambda index: self.chosen.emit(self.model.groups[index.row()].shot_id))
        self.words = QLabel(HANDS)
        self.words.setObjectName("soft")
        self.words.setFont(font(SMALL_PX))
        self.words.setWordWrap(True)
        self.offer()
        self.hit.currentIndexChanged.connect(lambda _: self.asked.emit(self.shape))
        line = QHBoxLayout()
        line.setSpacing(GRID_PX)
        for widget in (QLabel("Hits are"), self.hit):
            line.addWidget(widget)
        line.addWidget(self.words, 1)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addLayout(line)
        column.addWidget(self.table, 1)

    def offer(self) -> None:
        """Offer all shapes, one's own among them, and keepers, to be counted."""
        chosen = self.hit.currentData() or USUAL
        self.hit.blockSignals(True)
        self.hit.clear()
        self.hit.addItem("keepers", KEEPERS)
        for shape in (*SHAPES, *(own.shape for own in own_shapes())):
            self.hit.addItem(shape.name, shape.key)
        self.hit.setCurrentIndex(max(self.hit.findData(chosen), 0))
        self.hit.blockSignals(False)

    @property
    def shape(self) -> str:
        """What counts as a hit: the key of a shape, or "keeper"."""
        return str(self.hit.currentData())

    @property
    def current(self) -> int | None:
        """The number of the newest shot of the timing under the cursor."""
        row = self.table.currentIndex().row()
        return self.model.groups[row].shot_id if 0 <= row < len(self.model.groups) else None

    @property
    def record(self) -> ShotRecord | None:
        """That shot itself; None if it cannot be read."""
        return None if self.current is None else self.model.shots.get(self.current)

    def take(self, shots: dict[int, ShotRecord]) -> None:
        """Take what has changed of the shots that stand for their timings."""
        self.model.shots.update({number: shot for number, shot in shots.items() if number in self.model.shots})

    def _point(self) -> None:
        if self.current is not None:
            self.pointed.emit(self.current)

    def show_groups(self, groups: tuple[Group, ...], shots: dict[int, ShotRecord]) -> None:
        """Show other groups."""
        before = self.current
        self.model.show(groups, shots)
        if groups:
            row = next((n for n, group in enumerate(groups) if group.shot_id == before), 0)
            self.table.selectRow(row)
            self._point()
