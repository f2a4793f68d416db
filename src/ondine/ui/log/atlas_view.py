"""The atlas: shots as shape glyphs over two figures, on what the forecast expects there."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QLineF, QPointF, QRectF, Qt, Signal
from PySide6.QtGui import (
    QFocusEvent,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QPolygonF,
    QResizeEvent,
    QWheelEvent,
)
from PySide6.QtWidgets import QWidget

from ondine.core.log import atlas
from ondine.core.log.atlas import Cells, Points, nearest, within
from ondine.core.log.quantities import BY_KEY as QUANTITIES
from ondine.core.log.regions import Regions
from ondine.core.numbers import counted
from ondine.ui.kit.theme import SMALL_PX, font
from ondine.ui.log.atlas_near import AtlasNear
from ondine.ui.log.atlas_paint import CELL_PX, LEFT_PX, paint_axes, paint_cells, paint_regions
from ondine.ui.log.atlas_scale import AtlasScale, View
from ondine.ui.log.frame_paint import Frames

BOTTOM_PX, TOP_PX, RIGHT_PX = 44, 12, 16
MARGIN = 0.06
WHEEL = 0.85
REACH_PX = 14.0
ARROWS = {Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Right: (1, 0), Qt.Key.Key_Up: (0, 1), Qt.Key.Key_Down: (0, -1)}


class AtlasView(QWidget):
    """Emits `pointed(number or None)` for the shot under the cursor, `chosen(number)` for one that is taken,
    `ringed(numbers)` for those that a line was drawn round, `spotted(x, y)` for an empty spot, `reached(x, y)` for one
    that a series shall go to, and `viewed()` when another part comes into view.
    """

    pointed = Signal(object)
    chosen = Signal(int)
    ringed = Signal(object)
    spotted = Signal(float, float)
    reached = Signal(float, float)
    viewed = Signal()

    def __init__(self, frames: Frames, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.near = AtlasNear(frames)
        nothing = np.empty(0)
        whole = np.empty(0, np.int64)
        self.points = Points(whole, nothing, nothing, whole, np.empty(0, np.bool_))
        self.axes = "interval_ms", "flash_ms"
        self.regions: Regions | None = None
        self.in_hand: tuple[float, float] | None = None
        """Where the sequence in hand stands."""
        self._view: View = (0.0, 1.0, 0.0, 1.0)
        self._cursor: tuple[float, float] | None = None
        self._under: int | None = None
        self._line: list[QPointF] = []
        self._drawn_from: QPointF | None = None
        self._kept: dict[tuple[float, float], Cells] = {}
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setCursor(Qt.CursorShape.CrossCursor)
        self.setAccessibleName("Atlas of shots; arrows move, Return takes the shot or the spot, plus and minus zoom")

    # What is shown

    def show_points(self, points: Points, x: str, y: str) -> None:
        """Show other shots; over other figures all of them come into view."""
        anew = (x, y) != self.axes or not len(self.points.ids)
        self.points, self.axes = points, (x, y)
        self._kept.clear()
        if anew:
            self.regions, self._cursor = None, None
            self.show_all()
        self._point_at(self._cursor)

    def show_regions(self, regions: Regions | None) -> None:
        """Show what the forecast expects, under the shots."""
        self.regions = regions
        self.update()

    def show_all(self) -> None:
        """Bring all shots into view."""
        low_x, high_x, low_y, high_y = self.points.bounds
        dx, dy = MARGIN * (high_x - low_x), MARGIN * (high_y - low_y)
        self._look((low_x - dx, high_x + dx, low_y - dy, high_y + dy))

    @property
    def view(self) -> View:
        """The figures in view: least and greatest x, least and greatest y."""
        return self._view

    def _look(self, view: View) -> None:
        if view[1] - view[0] < 1e-3 or view[3] - view[2] < 1e-3:
            return
        self._view = view
        self.viewed.emit()
        self.update()

    @property
    def scale(self) -> AtlasScale:
        """Where the figures in view lie."""
        area = QRectF(self.rect()).adjusted(LEFT_PX, TOP_PX, -RIGHT_PX, -BOTTOM_PX)
        return AtlasScale(self._view, area)

    @property
    def under_cursor(self) -> int | None:
        """The number of the shot under the cursor."""
        return None if self._under is None else int(self.points.ids[self._under])

    def _point_at(self, figures: tuple[float, float] | None) -> None:
        across, up = self.scale.per_px
        self._cursor = figures
        found = None
        if figures is not None:
            found = nearest(self.points, *figures, REACH_PX * across, REACH_PX * up)
        if found != self._under:
            self._under = found
            self.pointed.emit(self.under_cursor)
        self._tell()
        self.update()

    def _tell(self) -> None:
        if self._cursor is None:
            self.setAccessibleDescription(counted(len(self.points.ids), "shot"))
            return
        x, y = QUANTITIES[self.axes[0]], QUANTITIES[self.axes[1]]
        here = f"{x.name} {x.words(self._cursor[0])}, {y.name} {y.words(self._cursor[1])}"
        shot = f", shot {self.under_cursor}" if self._under is not None else ""
        self.setAccessibleDescription(f"{here}{shot}")

    # Hands

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Begin a line round shots with the left button, draw the sheet along with the others."""
        self.setFocus()
        if event.button() == Qt.MouseButton.LeftButton:
            self._line = [event.position()]
        else:
            self._drawn_from = event.position()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """Draw the line on, draw the sheet along, or point."""
        if self._drawn_from is not None:
            self._look(self.scale.moved(event.position() - self._drawn_from))
            self._drawn_from = event.position()
        elif self._line:
            if QLineF(self._line[-1], event.position()).length() > 3:
                self._line.append(event.position())
                self.update()
        else:
            self._point_at(self.scale.figures(event.position()))

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        """Take what the line goes round; a press without a line points."""
        line, self._line, self._drawn_from = self._line, [], None
        if len(line) > 3:
            found = within(self.points, [self.scale.figures(place) for place in line])
            if len(found):
                self.ringed.emit(found)
        elif line:
            self._point_at(self.scale.figures(line[0]))
        self.update()

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        """Take the shot, or the spot."""
        self._point_at(self.scale.figures(event.position()))
        self._take(bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier))

    def wheelEvent(self, event: QWheelEvent) -> None:
        """Look closer, or wider, at what is under the hand."""
        turns = event.angleDelta().y() / 120
        if turns:
            self._look(self.scale.zoomed(event.position(), WHEEL**turns))

    def leaveEvent(self, event: object) -> None:
        """Nothing is pointed to any more, unless by keys."""
        if not self.hasFocus():
            self._point_at(None)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Move the cursor, zoom, take."""
        key = Qt.Key(event.key())
        middle = self.scale.area.center()
        if key in ARROWS:
            self._step(*ARROWS[key], 1.0 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 8.0)
        elif key in (Qt.Key.Key_Plus, Qt.Key.Key_Minus):
            about = middle if self._cursor is None else self.scale.place(*self._cursor)
            self._look(self.scale.zoomed(about, WHEEL if key == Qt.Key.Key_Plus else 1 / WHEEL))
        elif key == Qt.Key.Key_Home:
            self.show_all()
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self._cursor is not None:
            self._take(bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier))
        else:
            event.ignore()

    def _step(self, across: int, up: int, pixels: float) -> None:
        scale = self.scale
        at = scale.area.center() if self._cursor is None else scale.place(*self._cursor)
        to = at + QPointF(across * pixels, -up * pixels)
        if not scale.area.contains(to):
            self._look(scale.moved(QPointF(-across, up) * scale.area.width() / 4))
        self._point_at(scale.figures(to))

    def _take(self, as_series: bool) -> None:
        if as_series and self._cursor is not None:
            self.reached.emit(*self._cursor)
        elif self._under is not None:
            self.chosen.emit(int(self.points.ids[self._under]))
        elif self._cursor is not None:
            self.spotted.emit(*self._cursor)

    def focusInEvent(self, event: QFocusEvent) -> None:
        """Show the cursor to keys too."""
        if self._cursor is None and len(self.points.ids):
            self._point_at(self.scale.figures(self.scale.area.center()))
        super().focusInEvent(event)
        self.update()

    def focusOutEvent(self, event: QFocusEvent) -> None:
        """Redraw without the edge."""
        super().focusOutEvent(event)
        self.update()

    def resizeEvent(self, event: QResizeEvent) -> None:
        """See QWidget."""
        super().resizeEvent(event)
        self.viewed.emit()

    # Drawing

    def cells(self) -> Cells:
        """Return all shots by cells of the present zoom; panned views share them."""
        across, up = self.scale.per_px
        key = (float(np.ceil(np.log2(CELL_PX * across))), float(np.ceil(np.log2(CELL_PX * up))))
        if key not in self._kept:
            if len(self._kept) > 6:
                self._kept.clear()
            low_x, high_x, low_y, high_y = self.points.bounds
            self._kept[key] = atlas.cells(self.points, (low_x, high_x, low_y, high_y), CELL_PX * across, CELL_PX * up)
        return self._kept[key]

    def paintEvent(self, event: QPaintEvent) -> None:
        """Draw forecast, axes, shots, cursor."""
        scale = self.scale
        with QPainter(self) as p:
            p.setRenderHint(QPainter.RenderHint.Antialiasing)
            p.setFont(font(SMALL_PX))
            paint_axes(p, self.near.frames.theme, scale, self.axes)
            p.save()
            p.setClipRect(scale.area)
            if self.regions is not None:
                paint_regions(p, self.near.frames.theme, scale, self.regions)
            paint_cells(p, self.near.frames.theme, scale, self.cells(), self.devicePixelRatioF())
            self.near.paint(p, self.points, self.cells(), scale)
            self._paint_hand(p, scale)
            p.restore()
            if self.hasFocus():
                p.setPen(QPen(self.near.frames.theme.colour("ink"), 2))
                p.setBrush(Qt.BrushStyle.NoBrush)
                p.drawRect(scale.area)

    def _paint_hand(self, p: QPainter, scale: AtlasScale) -> None:
        t = self.near.frames.theme
        if self.in_hand is not None:
            p.setPen(QPen(t.colour("air"), 1))
            p.setBrush(t.colour("light"))
            at = scale.place(*self.in_hand)
            p.drawPolygon(QPolygonF([at + QPointF(*way) for way in ((0, -8), (8, 0), (0, 8), (-8, 0))]))
        p.setBrush(Qt.BrushStyle.NoBrush)
        if self._under is not None:
            at = scale.place(float(self.points.x[self._under]), float(self.points.y[self._under]))
            p.setPen(QPen(t.colour("light"), 2))
            p.drawEllipse(at, REACH_PX, REACH_PX)
        if self._cursor is not None and not self._line:
            at = scale.place(*self._cursor)
            p.setPen(QPen(t.colour("line"), 1))
            p.drawLine(QPointF(at.x(), scale.area.top()), QPointF(at.x(), scale.area.bottom()))
            p.drawLine(QPointF(scale.area.left(), at.y()), QPointF(scale.area.right(), at.y()))
        if len(self._line) > 1:
            p.setPen(QPen(t.colour("ink"), 1, Qt.PenStyle.DashLine))
            p.setBrush(t.colour("water_ink", 0.12))
            p.drawPolygon(QPolygonF(self._line))
