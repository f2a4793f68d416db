"""The flight chart: drops, jet, meeting and sheet over the waterline, the pulses that make them below it."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QEvent, QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QCursor, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QResizeEvent, QWheelEvent
from PySide6.QtWidgets import QSizePolicy, QWidget

from ondine.core.constants import US_PER_S
from ondine.core.forecast.prediction import Prediction
from ondine.core.setup import Setup
from ondine.core.timing.items import Item, has
from ondine.core.timing.limits import Problem
from ondine.core.timing.locks import Locks, with_followers
from ondine.core.timing.sequence import Sequence
from ondine.core.timing.snapping import Snap, on_grid
from ondine.ui.bench.chart_canvas import ChartCanvas
from ondine.ui.bench.chart_ears import TOP_PX, ChartEars
from ondine.ui.bench.chart_hand import FINEST_US, ChartHand
from ondine.ui.bench.chart_keys import pressed
from ondine.ui.bench.chart_paint import ChartPainter
from ondine.ui.bench.grips import Grip, Grips
from ondine.ui.bench.hints import AIR, LANES
from ondine.ui.bench.lane_paint import in_ms, ties_of
from ondine.ui.bench.lanes import Faults, Lanes
from ondine.ui.bench.selection import Selection
from ondine.ui.bench.sight import Sight, Window
from ondine.ui.kit.scales import TimeScale
from ondine.ui.kit.theme import DAY, Theme

LEFT_PX, RIGHT_PX = 54, 16
AXIS_PX = 22
CRATER_LEAST_PX, CRATER_SHARE = 18, 0.18
SHAPES = {True: Qt.CursorShape.SizeHorCursor, False: Qt.CursorShape.CrossCursor}


class FlightChart(QWidget):
    """Shows a prediction; emits `composed(change, gesture)` while something is dragged or nudged: the change is a
    function from the sequence in hand to the one that is wanted.

    `selection` tells what the keys will move; `selected()` and `pointed()` tell that it, or what lies under the cursor,
    is another.
    """

    composed = Signal(object, str)
    released = Signal()
    selected = Signal()
    pointed = Signal()

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        # It paints its own air and water: what lies behind it need not be drawn first.
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumSize(480, 252)
        self.setAccessibleName("Flight chart")
        self.theme: Theme = DAY
        self.step_us = 1_000
        self.snap = Snap.OFF
        self.selection = Selection()
        self.locks: Locks = ()
        self.tells: Callable[[int], str] = in_ms
        """Writes the time of a flash, as it is counted."""
        self.close_up = False
        self.prediction: Prediction | None = None
        self.hover: Grip | None = None
        self.open_ground: list[str] = []
        """What a hand can do where the cursor is; nothing while it is elsewhere."""
        self.sight = Sight(self)
        self.sight.changed.connect(self._rescale)
        self.hand = ChartHand(self)
        self._canvas = ChartCanvas(self)
        self._water_y = 0.0
        self._faults = Faults()
        self.ears = ChartEars(self)
        self.ears.composed.connect(self.composed)
        self.ears.released.connect(self.released)

    # What it shows

    def show_prediction(self, prediction: Prediction) -> None:
        """Draw another prediction."""
        first = self.prediction is None
        self.prediction = prediction
        if first or not self.hand.drags:
            self._rescale()
        self.update()

    def show_faults(self, problems: tuple[Problem, ...]) -> None:
        """Mark the drops, the flashes and the shutter that cannot be fired so."""
        found = Faults.of(problems)
        if found != self._faults:
            self._faults = found
            self._canvas.forget()
            self.update()

    @property
    def sequence(self) -> Sequence:
        """The sequence that is drawn."""
        assert self.prediction is not None
        return self.prediction.sequence

    @property
    def setup(self) -> Setup:
        """The table that it is drawn for."""
        assert self.prediction is not None
        return self.prediction.forecast.setup

    @property
    def moving(self) -> frozenset[Item]:
        """What a hand moves now: what is selected, and the drops that are locked to it."""
        return with_followers(self.selection.items, self.locks)

    def place_of(self, time_us: int, y: float) -> QPointF:
        """Where a time lies on the chart at a height of the widget."""
        return QPointF(self.time_scale.x(time_us / US_PER_S), y)

    def pointed_us(self) -> int | None:
        """The time under the cursor, to a tenth of a millisecond; None where it is elsewhere."""
        place = self.mapFromGlobal(QCursor.pos())
        if not self.underMouse() or not self.sight.time.left <= place.x() <= self.sight.time.right:
            return None
        return on_grid(self.sight.us_at(place.x()), FINEST_US)

    def set_water_line(self, y: float) -> None:
        """Put the waterline at a height of the widget, so that it runs on through the neighbours."""
        self._water_y = y
        self._rescale()

    def select(self, item: Item) -> None:
        """Take an item in hand, alone."""
        if self.prediction is not None and has(self.sequence, item, self.setup):
            self.show_selection(Selection(item))

    def show_selection(self, selection: Selection) -> None:
        """Take one or several items in hand."""
        self.selection = selection
        self.selected.emit()
        self.update()

    def toggle_close_up(self) -> None:
        """Show the whole flight, or only the time from touchdown on."""
        self.close_up = not self.close_up
        if not self.sight.show_whole():
            self._rescale()

    def _rescale(self) -> None:
        if self.prediction is None:
            return
        whole = Window(*self.prediction.span_s(self.close_up), 0.0, self.prediction.nozzle_height_m)
        corner = QPointF(self.width() - RIGHT_PX, self._water_y)
        self.sight.fit(whole, QRectF(QPointF(LEFT_PX, TOP_PX), corner))
        self.update()

    @property
    def time_scale(self) -> TimeScale:
        """Where times lie now."""
        return self.sight.time

    def lanes(self) -> Lanes:
        """Where the lanes of shutter, valves and flashes lie: in what the widget has left under the crater."""
        assert self.prediction is not None
        top = self._water_y + max(CRATER_LEAST_PX, CRATER_SHARE * (self.height() - self._water_y))
        return Lanes.of(self.prediction, top, self.height() - AXIS_PX)

    def grips(self) -> Grips:
        """What can be taken hold of, and where."""
        assert self.prediction is not None
        return Grips(self.prediction, self.sight.time, self.sight.height, self.lanes())

    def resizeEvent(self, event: QResizeEvent) -> None:
        """Fit the scales."""
        self._rescale()

    def paintEvent(self, event: QPaintEvent) -> None:
        """Draw everything anew; a few milliseconds."""
        if self.prediction is None:
            return
        with QPainter(self) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            dragged = self.hand.grip.item if self.hand.grip is not None else None
            self._canvas.paint(self.brush(painter, self.prediction), dragged)
            if self.hand.frame is not None:
                painter.setPen(QPen(self.theme.colour("ink"), 1, Qt.PenStyle.DashLine))
                painter.setBrush(self.theme.colour("line", 0.15))
                painter.drawRect(self.hand.frame)

    def brush(self, painter: QPainter, prediction: Prediction) -> ChartPainter:
        """Return what paints the chart as it stands, on a painter."""
        pointed = frozenset() if self.hover is None else frozenset((self.hover.item,))
        return ChartPainter(
            painter=painter,
            area=QRectF(self.rect()),
            time=self.sight.time,
            height=self.sight.height,
            lanes=self.lanes(),
            faults=self._faults,
            theme=self.theme,
            prediction=prediction,
            chosen=self.selection.items | pointed,
            focused=self.hasFocus(),
            labels_lay=self._canvas.labels_lay,
            ties=ties_of(self.locks, prediction),
            tells=self.tells,
        )

    # Mouse and keys

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Take hold of what lies there."""
        if self.prediction is not None:
            self.hand.press(event)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """Drag, or show what could be dragged."""
        if self.prediction is None:
            return
        mark = self.hand.mark
        if self.hand.move(event):
            if self.hand.mark != mark:
                self.pointed.emit()
            return
        hover = self.grips().at(event.position())
        ground = AIR if event.position().y() < self.sight.height.base_y else LANES
        if (hover, ground) != (self.hover, self.open_ground):
            self.hover, self.open_ground = hover, ground
            self.setCursor(SHAPES[hover is not None])
            self.pointed.emit()
            self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        """Let go."""
        dragged = self.hand.drags
        self.hand.release(event)
        self.sight.rest()
        if dragged and not self.hand.drags:
            self.released.emit()
            self._rescale()

    def wheelEvent(self, event: QWheelEvent) -> None:
        """Show more or less of it, or another part."""
        self.hand.wheel(event)
        event.accept()

    def leaveEvent(self, event: QEvent) -> None:
        """Nothing lies under the cursor any more."""
        self.hover, self.open_ground = None, []
        self.pointed.emit()
        self.update()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Arrows move what is selected, or the window."""
        if self.prediction is None or not pressed(self, event):
            super().keyPressEvent(event)
