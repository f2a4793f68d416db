"""The contact sheet: any number of shots as a grid, of which only what is in view is laid out and drawn."""

from __future__ import annotations

from collections import OrderedDict

from PySide6.QtCore import QItemSelection, QItemSelectionModel, QModelIndex, QPoint, QRect, QSize, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPixmap, QRegion, QResizeEvent
from PySide6.QtWidgets import QAbstractItemView, QFrame, QStyle, QStyleOptionViewItem, QWidget

from ondine.logbook.records import ShotRecord
from ondine.ui.kit.shot_list import SHOT, Index, ShotDelegate

MOVES = {
    Qt.Key.Key_Left: QAbstractItemView.CursorAction.MoveLeft,
    Qt.Key.Key_Right: QAbstractItemView.CursorAction.MoveRight,
    Qt.Key.Key_Up: QAbstractItemView.CursorAction.MoveUp,
    Qt.Key.Key_Down: QAbstractItemView.CursorAction.MoveDown,
    Qt.Key.Key_PageUp: QAbstractItemView.CursorAction.MovePageUp,
    Qt.Key.Key_PageDown: QAbstractItemView.CursorAction.MovePageDown,
    Qt.Key.Key_Home: QAbstractItemView.CursorAction.MoveHome,
    Qt.Key.Key_End: QAbstractItemView.CursorAction.MoveEnd,
}
LEAST_CELL_PX = 190
BESIDE_PX = 8
"""What a cell is wider than its picture."""

MOST_CELLS = 160
"""So many shots are kept as they were drawn: some screens up and down."""

Select = QItemSelectionModel.SelectionFlag


class SheetView(QAbstractItemView):
    """A grid in reading order. Shift selects all from where the selection began, Ctrl one more. Emits `chosen(index)`
    for Return and a double click.
    """

    chosen = Signal(object)

    def __init__(self, delegate: ShotDelegate, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._delegate = delegate
        self._anchor = 0
        self.setItemDelegate(delegate)
        # Scrolled by itself: with Qt 6.11 `setVerticalScrollMode` on a view of Python's own corrupts memory.
        self.setAutoScroll(False)
        self.setMouseTracking(True)
        self.setSelectionMode(QAbstractItemView.SelectionMode.ExtendedSelection)
        self.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        # One that comes and goes would change the width, the width the rows, and the rows whether it comes.
        self.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOn)
        self.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.setFrameShape(QFrame.Shape.NoFrame)
        self._columns = 1
        self._cells: OrderedDict[int, tuple[ShotRecord, QPixmap]] = OrderedDict()

    # Where things are

    @property
    def cell(self) -> QSize:
        """How large one shot is [px]."""
        return self._delegate.sizeHint(QStyleOptionViewItem(), self.rootIndex())

    @property
    def columns(self) -> int:
        """How many shots stand beside each other."""
        return self._columns

    def _count(self) -> int:
        return self.model().rowCount() if self.model() is not None else 0

    def visualRect(self, index: Index) -> QRect:
        """Where a shot is drawn."""
        if not index.isValid():
            return QRect()
        cell, across = self.cell, self.columns
        row, column = divmod(index.row(), across)
        return QRect(QPoint(column * cell.width(), row * cell.height() - self.verticalOffset()), cell)

    def indexAt(self, point: QPoint) -> QModelIndex:
        """Return the shot at a place."""
        cell, across = self.cell, self.columns
        column, row = point.x() // cell.width(), (point.y() + self.verticalOffset()) // cell.height()
        place = row * across + column
        if not (0 <= column < across and 0 <= place < self._count()):
            return self.model().index(-1, 0)
        return self.model().index(place, 0)

    def scrollTo(
        self, index: Index, hint: QAbstractItemView.ScrollHint = QAbstractItemView.ScrollHint.EnsureVisible
    ) -> None:
        """Bring a shot into sight."""
        area, high = self.visualRect(index), self.viewport().height()
        bar = self.verticalScrollBar()
        if hint is QAbstractItemView.ScrollHint.PositionAtCenter:
            bar.setValue(bar.value() + area.center().y() - high // 2)
        elif area.top() < 0:
            bar.setValue(bar.value() + area.top())
        elif area.bottom() > high:
            bar.setValue(bar.value() + min(area.bottom() - high + 1, area.top()))

    def horizontalOffset(self) -> int:
        """Nothing lies aside."""
        return 0

    def verticalOffset(self) -> int:
        """How far it is scrolled."""
        return self.verticalScrollBar().value()

    def isIndexHidden(self, index: Index) -> bool:
        """See QAbstractItemView."""
        return index.column() > 0

    def updateGeometries(self) -> None:
        """See QAbstractItemView."""
        cell, rows = self.cell, -(-self._count() // self.columns)
        bar = self.verticalScrollBar()
        bar.setSingleStep(cell.height() // 4)
        bar.setPageStep(self.viewport().height())
        bar.setRange(0, max(0, rows * cell.height() - self.viewport().height()))
        super().updateGeometries()

    def resizeEvent(self, event: QResizeEvent) -> None:
        """Let the shots fill the width, and keep the first one in view where it was."""
        first = self.verticalOffset() // self.cell.height() * self.columns
        current = self.currentIndex()
        in_sight = QRect(QPoint(), event.oldSize()).intersects(self.visualRect(current))
        wide = self.viewport().width()
        self._columns = max(1, wide // LEAST_CELL_PX)
        picture = wide // self._columns - BESIDE_PX
        self._delegate.resize(QSize(picture, picture * 2 // 3))
        self._cells.clear()
        super().resizeEvent(event)
        self.verticalScrollBar().setValue(first // self.columns * self.cell.height())
        if current.isValid() and in_sight:
            self.scrollTo(current)

    # Selection

    def setSelection(self, rect: QRect, command: Select) -> None:
        """See QAbstractItemView: shots are selected by `_select`, in reading order."""

    def visualRegionForSelection(self, selection: QItemSelection) -> QRegion:
        """All of it: what is selected may lie anywhere."""
        return QRegion(self.viewport().rect())

    def moveCursor(self, action: QAbstractItemView.CursorAction, modifiers: Qt.KeyboardModifier) -> QModelIndex:
        """Return the shot that a key leads to."""
        last, across = self._count() - 1, self.columns
        page = max(1, self.viewport().height() // self.cell.height()) * across
        moves = QAbstractItemView.CursorAction
        here = max(self.currentIndex().row(), 0)
        to = here + {
            moves.MoveLeft: -1, moves.MovePrevious: -1, moves.MoveRight: 1, moves.MoveNext: 1, moves.MoveUp: -across,
            moves.MoveDown: across, moves.MovePageUp: -page, moves.MovePageDown: page, moves.MoveHome: -here,
            moves.MoveEnd: last - here,
        }[action]  # fmt: skip
        if not self.currentIndex().isValid():
            to = 0
        elif action in (moves.MoveUp, moves.MoveDown) and not 0 <= to <= last:
            to = here
        return self.model().index(min(max(to, 0), last), 0)

    def _select(self, index: Index, modifiers: Qt.KeyboardModifier) -> None:
        if not index.isValid():
            return
        row, chosen = index.row(), self.selectionModel()
        if modifiers & Qt.KeyboardModifier.ShiftModifier:
            first, last = sorted((min(self._anchor, self._count() - 1), row))
            run = QItemSelection(self.model().index(first, 0), self.model().index(last, 0))
            chosen.select(run, Select.ClearAndSelect | Select.Rows)
            chosen.setCurrentIndex(index, Select.NoUpdate)
        elif modifiers & Qt.KeyboardModifier.ControlModifier:
            self._anchor = row
            chosen.setCurrentIndex(index, Select.Toggle | Select.Rows)
        else:
            self._anchor = row
            chosen.setCurrentIndex(index, Select.ClearAndSelect | Select.Rows)
        self.scrollTo(index)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Select what is pressed."""
        self._select(self.indexAt(event.position().toPoint()), event.modifiers())

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """Select all that a drag goes over; light up what is pointed to."""
        if event.buttons() & Qt.MouseButton.LeftButton:
            self._select(self.indexAt(event.position().toPoint()), Qt.KeyboardModifier.ShiftModifier)
        self.viewport().update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        """See QAbstractItemView: all was done when it was pressed."""

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        """Choose a shot."""
        index = self.indexAt(event.position().toPoint())
        if index.isValid():
            self.chosen.emit(index)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Walk, select, choose."""
        key = Qt.Key(event.key())
        if key in MOVES and self._count() and not event.modifiers() & Qt.KeyboardModifier.AltModifier:
            self._select(self.moveCursor(MOVES[key], event.modifiers()), event.modifiers() & ~CONTROL)
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self.currentIndex().isValid():
            self.chosen.emit(self.currentIndex())
        else:
            # A search by typing, as other lists have it, would take the letters that tag.
            event.ignore()

    # Drawing

    def paintEvent(self, event: QPaintEvent) -> None:
        """Draw the shots that are in view."""
        count, across, cell = self._count(), self.columns, self.cell
        first = self.verticalOffset() // cell.height() * across
        last = min(count, ((self.verticalOffset() + self.viewport().height()) // cell.height() + 1) * across)
        pointed = self.indexAt(self.viewport().mapFromGlobal(self.cursor().pos())).row()
        option = QStyleOptionViewItem()
        self.initViewItemOption(option)
        usual, chosen = option.state, self.selectionModel()
        with QPainter(self.viewport()) as painter:
            for place in range(first, last):
                index = self.model().index(place, 0)
                area = self.visualRect(index)
                state = usual
                if chosen.isRowSelected(place):
                    state |= QStyle.StateFlag.State_Selected
                elif place == pointed:
                    state |= QStyle.StateFlag.State_MouseOver
                option.rect, option.state = area, state
                if state == usual and (drawn := self._drawn(index, option, cell)) is not None:
                    painter.drawPixmap(area.topLeft(), drawn)
                    continue
                self._delegate.paint(painter, option, index)

    def _drawn(self, index: Index, option: QStyleOptionViewItem, cell: QSize) -> QPixmap | None:
        """Return a shot as it was drawn before, or draws it now to be kept; None while it has no picture yet."""
        shot: ShotRecord | None = index.data(SHOT)
        if shot is None:
            return None
        ratio = self.devicePixelRatioF()
        kept = self._cells.get(shot.id)
        if kept is not None and kept[0] is shot and kept[1].devicePixelRatio() == ratio:
            self._cells.move_to_end(shot.id)
            return kept[1]
        drawn = QPixmap(cell * ratio)
        drawn.setDevicePixelRatio(ratio)
        drawn.fill(Qt.GlobalColor.transparent)
        with QPainter(drawn) as painter:
            # In the sheet's own places, so that what is drawn is told from its neighbours.
            painter.setWindow(option.rect)
            painter.setViewport(QRect(QPoint(), cell))
            self._delegate.paint(painter, option, index)
        if not self._delegate.is_whole:
            return drawn
        self._cells[shot.id] = shot, drawn
        while len(self._cells) > MOST_CELLS:
            self._cells.popitem(last=False)
        return drawn

    def forget_drawn(self) -> None:
        """Draw all shots anew: in other colours, or at another size."""
        self._cells.clear()
        self.viewport().update()


CONTROL = Qt.KeyboardModifier.ControlModifier
