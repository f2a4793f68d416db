"""Two to six shots side by side, looked at through one lens, with only what differs between them."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import QPointF, QRectF, QSizeF, Qt, QTimer, Signal
from PySide6.QtGui import QFocusEvent, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QWheelEvent
from PySide6.QtWidgets import QWidget

from ondine.core.log.side_by_side import Row
from ondine.logbook.records import ShotRecord
from ondine.ui.kit.pictures import PictureLoader
from ondine.ui.kit.shot_list import shot_words
from ondine.ui.kit.theme import DAY
from ondine.ui.log.best_of import BestOf
from ondine.ui.log.compare_panes import ACROSS, HEAD_PX, ROW_PX, Panes, paint_head, paint_row
from ondine.ui.log.frame_paint import USUAL, Frames
from ondine.ui.log.lens import Lens

WHEEL, KEY = 1.2, 1.5
STEP = 0.1
REST_MS = 120
"""A lens that moves faster than this needs no finer pixels: nobody would see them."""
ARROWS = {Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Right: (1, 0), Qt.Key.Key_Up: (0, -1), Qt.Key.Key_Down: (0, 1)}


class CompareView(QWidget):
    """Emits `pointed(number)` for the shot that keys are about, `chosen(number)` for one to go to the bench with, and
    `turned(numbers)` when others come into view.
    """

    pointed = Signal(int)
    chosen = Signal(int)
    turned = Signal(object)

    def __init__(self, loader: PictureLoader, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.frames = Frames(loader, DAY)
        self.best_of = BestOf()
        self.lens = Lens()
        self.place = 0
        self._shots: dict[int, ShotRecord] = {}
        self._rows: tuple[Row, ...] = ()
        self._of_rows: tuple[int, ...] = ()
        self._held: QPointF | None = None
        self._rest = QTimer(self)
        self._rest.setSingleShot(True)
        self._rest.setInterval(REST_MS)
        self._rest.timeout.connect(self.update)
        self._proportions = USUAL
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Shots side by side; arrows choose one, Shift and arrows move all, plus and minus zoom")
        loader.ready.connect(lambda _: self.update())

    # What is shown

    def show_shots(self, numbers: Sequence[int]) -> None:
        """Begin to compare some shots; of more than fit, the first."""
        self.best_of, self.place, self.lens = BestOf(numbers), 0, Lens()
        self._turn()

    def take(self, shots: dict[int, ShotRecord]) -> None:
        """Take what is known of shots; others than those compared are left aside."""
        self._shots.update({number: shot for number, shot in shots.items() if number in self.best_of.in_view})
        self._tell()

    def show_differences(self, shot_ids: tuple[int, ...], rows: tuple[Row, ...]) -> None:
        """Show what differs between some shots, if they are in view still."""
        if set(shot_ids) == set(self.best_of.in_view):
            self._rows, self._of_rows = rows, shot_ids
            self._tell()

    @property
    def current(self) -> int | None:
        """The number of the shot that keys are about."""
        in_view = self.best_of.in_view
        return in_view[self.place] if self.place < len(in_view) else None

    @property
    def record(self) -> ShotRecord | None:
        """The shot that keys are about, as far as it is read."""
        return None if self.current is None else self._shots.get(self.current)

    def strike(self) -> bool:
        """Strike out the shot that keys are about."""
        return self._after(self.best_of.strike(self.place))

    def put_back(self) -> bool:
        """Take the last striking out back."""
        return self._after(self.best_of.put_back())

    def _after(self, done: bool) -> bool:
        if done:
            self.place = min(self.place, len(self.best_of.in_view) - 1)
            self._turn()
        return done

    def _turn(self) -> None:
        in_view = self.best_of.in_view
        self._shots = {number: shot for number, shot in self._shots.items() if number in in_view}
        self._rows = ()
        self.turned.emit(in_view)
        self._point(self.place)

    def _point(self, place: int) -> None:
        if 0 <= place < len(self.best_of.in_view):
            self.place = place
            self.pointed.emit(self.best_of.in_view[place])
        self._tell()

    def _tell(self) -> None:
        """Say the shot under the cursor to those who hear the page, and draw all anew."""
        number = self.current
        shot = None if number is None else self._shots.get(number)
        said = "" if shot is None else f"{self.place + 1} of {len(self.best_of.in_view)}: {shot_words(shot)}"
        if number in self._of_rows:
            at = self._of_rows.index(number)
            said += "".join(f"; {row.name} {row.values[at]}" for row in self._rows)
        self.setAccessibleDescription(said)
        self.update()

    # Where things are

    @property
    def panes(self) -> Panes:
        """Where the panes stand now."""
        return Panes(QSizeF(self.size()), len(self.best_of.in_view), len(self._rows), self._proportions)

    def _on_picture(self, point: QPointF) -> QPointF:
        """Return the point of a picture that lies under a point of the page, as shares of the picture."""
        panes = self.panes
        place = panes.at(point)
        frame = panes.frame(panes.all()[self.place if place is None else place])
        part, seen = self.lens.looked_at(self._proportions, frame.size())
        seen.translate(frame.topLeft())
        return QPointF(
            part[0] + part[2] * (point.x() - seen.left()) / seen.width(),
            part[1] + part[3] * (point.y() - seen.top()) / seen.height(),
        )

    # Hands

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Point to a shot, and hold all pictures."""
        self.setFocus()
        place = self.panes.at(event.position())
        if place is not None:
            self._held = event.position()
            self._point(place)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """Draw all pictures along."""
        if self._held is not None:
            before, now = self._on_picture(self._held), self._on_picture(event.position())
            self._held = event.position()
            moved = (before - now) * self.lens.closeness
            self._look(self.lens.moved(moved.x(), moved.y()))

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        """Let go of them."""
        self._held = None

    def wheelEvent(self, event: QWheelEvent) -> None:
        """Look closer, or wider, at what is under the hand, in all pictures."""
        turns = event.angleDelta().y() / 120
        if turns and self.best_of.in_view:
            self._look(self.lens.closer(WHEEL**turns, self._on_picture(event.position())))

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Choose a shot, look closer, move."""
        key = Qt.Key(event.key())
        if key in ARROWS and event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
            self._look(self.lens.moved(STEP * ARROWS[key][0], STEP * ARROWS[key][1]))
        elif key in ARROWS and not event.modifiers() & Qt.KeyboardModifier.AltModifier:
            across, down = ARROWS[key]
            self._point(self.place + across + down * ACROSS.get(len(self.best_of.in_view), 1))
        elif key in (Qt.Key.Key_Plus, Qt.Key.Key_Minus):
            self._look(self.lens.closer(KEY if key == Qt.Key.Key_Plus else 1 / KEY, QPointF(self.lens.x, self.lens.y)))
        elif key == Qt.Key.Key_Home:
            self._look(Lens())
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self.current is not None:
            self.chosen.emit(self.current)
        else:
            event.ignore()

    def _look(self, lens: Lens) -> None:
        self.lens = lens
        self._rest.start()
        self.update()

    def focusInEvent(self, event: QFocusEvent) -> None:
        """Show where keys go."""
        super().focusInEvent(event)
        self.update()

    def focusOutEvent(self, event: QFocusEvent) -> None:
        """Show that keys go elsewhere."""
        super().focusOutEvent(event)
        self.update()

    # Drawing

    def paintEvent(self, event: QPaintEvent) -> None:
        """Draw the panes."""
        with QPainter(self) as p:
            p.setRenderHint(QPainter.RenderHint.Antialiasing)
            for place, (number, pane) in enumerate(zip(self.best_of.in_view, self.panes.all(), strict=True)):
                self._paint_pane(p, number, pane, place == self.place)

    def _paint_pane(self, p: QPainter, number: int, pane: QRectF, is_current: bool) -> None:
        t, panes, shot = self.frames.theme, self.panes, self._shots.get(number)
        frame = seen = panes.frame(pane)
        if shot is not None:
            still = not self._rest.isActive()
            self._proportions, seen = self.frames.paint(p, shot, frame, self.lens, fine=still)
        if is_current:
            p.setPen(QPen(t.colour("ink" if self.hasFocus() else "line"), 3))
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.drawRect(seen)
        head = QRectF(pane.left() + 2, frame.bottom() + 2, pane.width() - 4, HEAD_PX - 2)
        if shot is not None:
            paint_head(p, t, shot, head, is_current)
        if number in self._of_rows:
            at = self._of_rows.index(number)
            for n, row in enumerate(self._rows[: panes.rows_shown(pane)]):
                line = QRectF(head.left(), head.bottom() + n * ROW_PX, head.width(), ROW_PX)
                paint_row(p, t, row.name, row.values[at], line)
