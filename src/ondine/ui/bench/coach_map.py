"""The chance of what is searched for over two timings, with the shots fired: a press takes the timing under it."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QFocusEvent, QImage, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QComboBox, QHBoxLayout, QVBoxLayout, QWidget

from ondine.core.timing.sequence import Sequence
from ondine.ui.bench.coach_wish import CoachWish
from ondine.ui.kit.theme import DAY, GRID_PX, SMALL_PX, Theme, font
from ondine.ui.kit.words import Words

if TYPE_CHECKING:
    # Nobody needs the coach for the first frame.
    from ondine.core.coach.mapping import Axis, ChanceMap

LEFT_PX, BOTTOM_PX, TOP_PX, RIGHT_PX = 44, 28, 8, 18
DOT_PX = 4
FULL_CHANCE = 0.8
"""So likely is the darkest colour: more no timing promises."""

ARROWS = {
    Qt.Key.Key_Left: (-1, 0),
    Qt.Key.Key_Right: (1, 0),
    Qt.Key.Key_Up: (0, 1),
    Qt.Key.Key_Down: (0, -1),
}


class MapView(QWidget):
    """Draws a `ChanceMap`. Emits `pointed(sequence, chance)` and `taken(sequence)`."""

    pointed = Signal(object, float)
    taken = Signal(object)

    def __init__(self) -> None:
        super().__init__()
        self.theme: Theme = DAY
        self.map: ChanceMap | None = None
        self._in_hand: Sequence | None = None
        self.at = (0, 0)
        self.setFont(font(SMALL_PX))
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setCursor(Qt.CursorShape.CrossCursor)
        self.setAccessibleName("Map of chances; arrows move, Return takes the timing")

    def show_map(self, found: ChanceMap) -> None:
        """Show another map, and point to its best timing."""
        self.map, self._in_hand = found, None
        row, column = np.unravel_index(int(np.argmax(found.chance)), found.chance.shape)
        self._point(int(column), int(row))

    def follow(self, sequence: Sequence) -> bool:
        """Mark what is in hand now. False if the map is of another sequence: then it has to be drawn anew."""
        if self.map is None:
            return True
        is_of = self.map.is_of(sequence)
        self._in_hand = sequence if is_of else None
        self.update()
        return is_of

    def _point(self, column: int, row: int) -> None:
        assert self.map is not None
        rows, columns = self.map.chance.shape
        self.at = min(max(column, 0), columns - 1), min(max(row, 0), rows - 1)
        self.pointed.emit(self.sequence(), float(self.map.chance[self.at[1], self.at[0]]))
        self.update()

    def sequence(self) -> Sequence:
        """Return the sequence in hand with the timings that are pointed to."""
        assert self.map is not None
        found, (column, row) = self.map, self.at
        before = self._in_hand or found.sequence
        return found.y.put(found.x.put(before, int(found.x_us[column])), int(found.y_us[row]))

    # Where things lie

    def _field(self) -> QRectF:
        return QRectF(self.rect()).adjusted(LEFT_PX, TOP_PX, -RIGHT_PX, -BOTTOM_PX)

    def _place(self, x_us: float, y_us: float) -> QPointF:
        assert self.map is not None
        field, found = self._field(), self.map
        across = (x_us - found.x_us[0]) / (found.x_us[-1] - found.x_us[0])
        up = (y_us - found.y_us[0]) / (found.y_us[-1] - found.y_us[0])
        return QPointF(field.left() + across * field.width(), field.bottom() - up * field.height())

    def _cell(self, at: QPointF) -> tuple[int, int]:
        assert self.map is not None
        rows, columns = self.map.chance.shape
        field = self._field()
        across = (at.x() - field.left()) / field.width() * (columns - 1)
        up = (field.bottom() - at.y()) / field.height() * (rows - 1)
        return round(across), round(up)

    # Hands

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """Point to what lies under the cursor."""
        if self.map is not None:
            self._point(*self._cell(event.position()))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Take the timing under the cursor."""
        if self.map is not None and event.button() == Qt.MouseButton.LeftButton:
            self._point(*self._cell(event.position()))
            self.taken.emit(self.sequence())

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Arrows point elsewhere, Return takes it."""
        way = ARROWS.get(Qt.Key(event.key()))
        if self.map is None or (way is None and event.key() not in (Qt.Key.Key_Return, Qt.Key.Key_Enter)):
            super().keyPressEvent(event)
        elif way is not None:
            self._point(self.at[0] + way[0], self.at[1] + way[1])
        else:
            self.taken.emit(self.sequence())

    def focusInEvent(self, event: QFocusEvent) -> None:
        """Show that keys move it."""
        super().focusInEvent(event)
        self.update()

    # Drawing

    def paintEvent(self, event: QPaintEvent) -> None:
        """The chances as one hue, the shots as dots, what is in hand as a cross, what is pointed to as a ring."""
        with QPainter(self) as p:
            p.setRenderHint(QPainter.RenderHint.Antialiasing)
            if self.map is None:
                p.setPen(self.theme.colour("soft_ink"))
                p.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, "The coach is thinking.")
                return
            field = self._field()
            p.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
            p.drawImage(field, _heat(self.map.chance, self.theme))
            p.setPen(QPen(self.theme.colour("ink" if self.hasFocus() else "line"), 2 if self.hasFocus() else 1))
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.drawRect(field)
            self._draw_scales(p, field)
            self._draw_shots(p, field)
            p.setPen(QPen(self.theme.colour("light"), 2))
            x_us, y_us = (int(axis[k]) for axis, k in zip((self.map.x_us, self.map.y_us), self.at, strict=True))
            p.drawEllipse(self._place(x_us, y_us), 2 * DOT_PX, 2 * DOT_PX)

    def _draw_scales(self, p: QPainter, field: QRectF) -> None:
        assert self.map is not None
        p.setPen(self.theme.colour("soft_ink"))
        for us in self.map.x_us[:: (len(self.map.x_us) - 1) // 4]:
            x = self._place(float(us), float(self.map.y_us[0])).x()
            p.drawText(QRectF(x - 30, field.bottom() + 2, 60, 20), Qt.AlignmentFlag.AlignHCenter, f"{us / 1000:.0f}")
        for us in self.map.y_us[:: (len(self.map.y_us) - 1) // 4]:
            y = self._place(float(self.map.x_us[0]), float(us)).y()
            right = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
            p.drawText(QRectF(0, y - 10, LEFT_PX - 6, 20), right, f"{us / 1000:.0f}")

    def _draw_shots(self, p: QPainter, field: QRectF) -> None:
        assert self.map is not None
        p.setPen(QPen(self.theme.colour("ink"), 1.5))
        for x_us, y_us, shape in self.map.shots:
            at = self._place(x_us, y_us)
            if field.contains(at):
                # What was searched for is a filled dot, all else an open one.
                hit = shape == self.map.goal.shape
                p.setBrush(self.theme.colour("ink") if hit else Qt.BrushStyle.NoBrush)
                p.drawEllipse(at, DOT_PX, DOT_PX)
        p.setBrush(Qt.BrushStyle.NoBrush)
        in_hand = self._in_hand or self.map.sequence
        own = self._place(self.map.x.of(in_hand), self.map.y.of(in_hand))
        if field.contains(own):
            for dx, dy in ((DOT_PX * 2, 0), (0, DOT_PX * 2)):
                p.drawLine(own - QPointF(dx, dy), own + QPointF(dx, dy))


def _heat(chance: np.ndarray, theme: Theme) -> QImage:
    """An image of chances from the ground to the water's own colour, the first row at the bottom."""
    ground, full = theme.colour("air"), theme.colour("water_ink")
    share = np.clip(np.flipud(chance) / FULL_CHANCE, 0, 1)[..., None]
    ends = np.array([_rgb(ground), _rgb(full)], dtype=float)
    colours = np.ascontiguousarray((ends[0] + share * (ends[1] - ends[0])).round().astype(np.uint8))
    rows, columns = chance.shape
    return QImage(colours.data, columns, rows, 3 * columns, QImage.Format.Format_RGB888).copy()


def _rgb(colour: QColor) -> tuple[int, int, int]:
    return colour.red(), colour.green(), colour.blue()


class CoachMap(QWidget):
    """The map with the choice of its two timings, and of what is wanted besides the shape.

    Emits `axes_chosen(x, y)` and `taken(sequence)`.
    """

    axes_chosen = Signal(object, object)
    taken = Signal(object)

    def __init__(self) -> None:
        super().__init__()
        self.view = MapView()
        self.words = Words(SMALL_PX, role="ink", bold=True)
        self.wish = CoachWish()
        self.across, self.up = QComboBox(), QComboBox()
        row = QHBoxLayout()
        row.setSpacing(GRID_PX)
        for box, name in ((self.across, "Across"), (self.up, "Up")):
            box.setFont(font(SMALL_PX))
            box.setMinimumHeight(32)
            box.setAccessibleName(f"Timing {name.lower()}")
            box.activated.connect(self._choose)
            row.addWidget(box, 1)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(self.words)
        column.addWidget(self.view, 1)
        column.addLayout(row)
        column.addWidget(self.wish)
        self.view.taken.connect(self.taken)
        self.view.pointed.connect(self._say)

    def show_map(self, found: ChanceMap, axes: tuple[Axis, ...]) -> None:
        """Show another map, and which timings it could have."""
        for box, chosen, before in ((self.across, found.x, "→ "), (self.up, found.y, "↑ ")):
            box.clear()
            for axis in axes:
                box.addItem(f"{before}{axis.name}, ms", axis)
            box.setCurrentIndex(axes.index(chosen) if chosen in axes else 0)
        self.view.show_map(found)

    def forget(self) -> None:
        """Drop the map: it is of another rig."""
        self.view.map = None
        self.words.set_text("")
        self.view.update()

    def _choose(self) -> None:
        x, y = self.across.currentData(), self.up.currentData()
        if x != y:
            self.axes_chosen.emit(x, y)

    def _say(self, sequence: Sequence, chance: float) -> None:
        from ondine.core.coach.words import timing_words

        self.words.set_text(f"{chance:.0%} at {timing_words(sequence)}")
