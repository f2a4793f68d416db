"""The flight chart: drops, jet, meeting and sheet over the waterline, the pulses that make them below it."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QResizeEvent
from PySide6.QtWidgets import QSizePolicy, QWidget

from ondine.core.constants import US_PER_S
from ondine.core.forecast.prediction import Course, Prediction
from ondine.core.timing.limits import Problem
from ondine.core.timing.sequence import MAX_TIME_US, FlashPulse, Sequence
from ondine.ui.bench.chart_ears import TOP_PX, ChartEars
from ondine.ui.bench.chart_paint import ChartPainter
from ondine.ui.bench.grips import FIRST_FLASH, Grip, Grips, flash_of, moved, nudged, there_is
from ondine.ui.bench.lanes import Faults, Lanes
from ondine.ui.bench.layers import Layer
from ondine.ui.kit.scales import HeightScale, TimeScale
from ondine.ui.kit.theme import DAY, Theme

LEFT_PX, RIGHT_PX = 54, 16
AXIS_PX = 22
CRATER_LEAST_PX, CRATER_SHARE = 18, 0.18


class FlightChart(QWidget):
    """Shows a prediction; emits `composed(change, gesture)` while something is dragged or nudged: the change is a
    function from the sequence in hand to the one that is wanted.

    `selected` tells which drop (from 0) or flash (from -1 down) the keys will move.
    """

    composed = Signal(object, str)
    released = Signal()
    selected = Signal(int)

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
        self.selection = FIRST_FLASH
        self.close_up = False
        self._prediction: Prediction | None = None
        self._water_y = 0.0
        self._time: TimeScale | None = None
        self._height: HeightScale | None = None
        self._hover: Grip | None = None
        self._drag: Grip | None = None
        self._grab_offset_us = 0
        self._still = Layer()
        self._last_keys: dict[str, object] = {}
        self._moved: set[str] = set()
        self._labels_lay: dict[int, QPointF] = {}
        self._course: Course | None = None
        self._course_key = object()
        self._flashes_rest: tuple[FlashPulse, ...] = ()
        self._faults = Faults()
        self.ears = ChartEars(self)
        self.ears.composed.connect(self.composed)
        self.ears.released.connect(self.released)

    # What it shows

    def show_prediction(self, prediction: Prediction) -> None:
        """Draw another prediction."""
        self._prediction = prediction
        if self._drag is None or self._time is None:
            self._rescale()
        self.update()

    def show_faults(self, problems: tuple[Problem, ...]) -> None:
        """Mark the drops, the flashes and the shutter that cannot be fired so."""
        found = Faults.of(problems)
        if found != self._faults:
            self._faults = found
            self._last_keys, self._moved = {}, set()
            self.update()

    @property
    def sequence(self) -> Sequence:
        """The sequence that is drawn."""
        assert self._prediction is not None
        return self._prediction.sequence

    def place_of(self, time_us: int, y: float) -> QPointF:
        """Where a time lies on the chart at a height of the widget."""
        return QPointF(self.time_scale.x(time_us / US_PER_S), y)

    def set_water_line(self, y: float) -> None:
        """Put the waterline at a height of the widget, so that it runs on through the neighbours."""
        self._water_y = y
        self._rescale()

    def select(self, what: int) -> None:
        """Take hold of a drop (from 0) or a flash (from -1 down) for the keys."""
        if self._prediction is None or not there_is(what, self._prediction.sequence):
            return
        self.selection = what
        self.selected.emit(what)
        self.update()

    def toggle_close_up(self) -> None:
        """Show the whole flight, or only the time from touchdown on."""
        self.close_up = not self.close_up
        self._rescale()

    def _rescale(self) -> None:
        if self._prediction is None:
            return
        start, end = self._prediction.span_s(self.close_up)
        self._time = TimeScale(start, end, LEFT_PX, self.width() - RIGHT_PX)
        self._height = HeightScale(self._water_y, TOP_PX, self._prediction.nozzle_height_m)
        self.update()

    @property
    def time_scale(self) -> TimeScale:
        """Where times lie now."""
        assert self._time is not None
        return self._time

    def lanes_top(self) -> float:
        """Where the pulses begin, under the crater."""
        return self._water_y + max(CRATER_LEAST_PX, CRATER_SHARE * (self.height() - self._water_y))

    def lanes(self) -> Lanes:
        """Where the lanes of shutter, valves and flashes lie: in what the widget has left."""
        assert self._prediction is not None
        return Lanes.of(self._prediction, self.lanes_top(), self.height() - AXIS_PX)

    def lane_px(self) -> float:
        """Height of one lane."""
        return self.lanes().px

    def resizeEvent(self, event: QResizeEvent) -> None:
        """Fit the scales."""
        self._rescale()

    def paintEvent(self, event: QPaintEvent) -> None:
        """Draw everything anew; a few milliseconds."""
        if self._prediction is None or self._time is None or self._height is None:
            return
        with QPainter(self) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            self._paint_parts(painter, (self._time, self._height, self.theme.name))
            self._brush(painter).paint_flash()

    def _paint_parts(self, painter: QPainter, scales: object) -> None:
        """Draw the drops and what they make; what looks as in the frame before is kept as a picture.

        While the flash is dragged everything else stands still; while a drop is, all that it leaves alone does.
        """
        assert self._prediction is not None
        if self._drag is None or self._drag.what < 0:
            self._last_keys, self._moved, self._labels_lay = {}, set(), {}
            if self._course is not self._prediction.course:
                self._course, self._course_key = self._prediction.course, object()
            if self._drag is None:
                # Labels make way for the flash where it rests, not while it moves.
                self._flashes_rest = self._prediction.sequence.flashes
            key: object = (scales, self._course_key, self.selection, self._hover, self._flashes_rest, self._faults)
            painter.drawPixmap(0, 0, self._still.drawn(self, key, lambda p: self._paint_still(p, None)))
            return
        parts = self._brush(painter).parts()
        # What has moved once since the hand took hold counts as moving: a picture that is kept is seldom drawn anew.
        self._moved |= {part.name for part in parts if self._last_keys.get(part.name, part.key) != part.key}
        self._last_keys = {part.name: part.key for part in parts}
        still = [part for part in parts if part.name not in self._moved]
        names, key = {part.name for part in still}, (scales, tuple(part.key for part in still))
        painter.drawPixmap(0, 0, self._still.drawn(self, key, lambda p: self._paint_still(p, names)))
        self._brush(painter).paint_parts([part for part in parts if part not in still])

    def _paint_still(self, painter: QPainter, names: set[str] | None) -> None:
        """Draw scales and the parts of these names, None for all."""
        brush = self._brush(painter)
        brush.paint_scales()
        brush.paint_parts([part for part in brush.parts() if names is None or part.name in names])

    def _brush(self, painter: QPainter) -> ChartPainter:
        assert self._prediction is not None and self._time is not None and self._height is not None
        return ChartPainter(
            painter=painter,
            area=QRectF(self.rect()),
            time=self._time,
            height=self._height,
            lanes=self.lanes(),
            faults=self._faults,
            theme=self.theme,
            prediction=self._prediction,
            selection=self.selection,
            hover=None if self._hover is None else self._hover.what,
            focused=self.hasFocus(),
            labels_lay=self._labels_lay,
        )

    # Mouse

    def grip_at(self, place: QPointF) -> Grip | None:
        """Return what can be taken hold of at a place."""
        if self._prediction is None or self._time is None or self._height is None:
            return None
        return Grips(self._prediction, self._time, self._height, self.lanes()).at(place)

    def _us(self, x: float) -> int:
        assert self._time is not None
        return round(self._time.time_s(x) * US_PER_S)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Take hold of what lies there; on open air, bring the flash in hand."""
        if event.button() != Qt.MouseButton.LeftButton or self._prediction is None or self._time is None:
            return
        place = event.position()
        grip = self.grip_at(place)
        if grip is None and place.y() < self._water_y:
            grip = Grip(self.selection if self.selection < 0 else FIRST_FLASH)
            self._drag, self._grab_offset_us = grip, 0
            self.select(grip.what)
            self._move_to(place.x())
            return
        if grip is None:
            return
        self.select(grip.what)
        self._drag = grip
        self._grab_offset_us = grip.value_us(self._prediction.sequence) - self._us(place.x())

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """Drag, or show what could be dragged."""
        if self._drag is not None:
            self._move_to(event.position().x())
            return
        hover = self.grip_at(event.position())
        if hover != self._hover:
            self._hover = hover
            self.setCursor(Qt.CursorShape.SizeHorCursor if hover else Qt.CursorShape.CrossCursor)
            self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        """Let go."""
        if self._drag is not None:
            self._drag = None
            self.released.emit()
            self._rescale()

    def _move_to(self, x: float) -> None:
        assert self._prediction is not None and self._drag is not None
        # A tenth of a millisecond is as fine as any rig repeats.
        target = round((self._us(x) + self._grab_offset_us) / 100) * 100
        target = max(0, min(target, MAX_TIME_US))
        grip = self._drag
        self.composed.emit(partial(moved, grip, target), f"drag {grip.what} {grip.end}")

    # Keys

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Arrows nudge what is selected; with Shift by the coarse step."""
        coarse = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        way = _WAYS.get(Qt.Key(event.key()))
        if way is None or (flash_of(self.selection) is not None and way[1]):
            super().keyPressEvent(event)
            return
        step = 5_000 if coarse else self.step_us
        change = partial(nudged, self.selection, way[0] * step, way[1] * step)
        self.composed.emit(change, f"keys {self.selection} {bool(way[1])}")


_WAYS = {Qt.Key.Key_Right: (1, 0), Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Up: (0, 1), Qt.Key.Key_Down: (0, -1)}
"""Later or earlier, longer or shorter."""
