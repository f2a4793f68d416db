"""The flight chart: drops, jet, meeting and sheet over the waterline, the pulses that make them below it."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPixmap, QResizeEvent
from PySide6.QtWidgets import QSizePolicy, QWidget

from ondine.core.constants import US_PER_S
from ondine.core.sequence import MAX_TIME_US, Sequence
from ondine.ui.chart_paint import ChartPainter
from ondine.ui.prediction import Prediction
from ondine.ui.scales import HeightScale, TimeScale
from ondine.ui.theme import DAY, Theme

LEFT_PX, RIGHT_PX, TOP_PX = 54, 16, 24
CRATER_PX, AXIS_PX = 44, 28
LANE_MIN_PX, LANE_MAX_PX = 24, 44
GRAB_PX = 9
FLASH = -1
"""Stands for the flash where a drop's number could stand."""


@dataclass(frozen=True)
class Handle:
    """Something on the chart that can be taken hold of: a drop's start, its open time, or the flash."""

    what: int
    end: bool = False


@dataclass(frozen=True)
class Layer:
    """A part of the chart as it was drawn, and what it was drawn from."""

    key: object
    picture: QPixmap


@dataclass(frozen=True, eq=False)
class Same:
    """Equal only to a wrapper of the very same object."""

    held: object

    def __eq__(self, other: object) -> bool:
        return isinstance(other, Same) and other.held is self.held

    def __hash__(self) -> int:
        return id(self.held)


class FlightChart(QWidget):
    """Shows a prediction; emits `composed(sequence, gesture)` while something is dragged or nudged.

    `selected` tells which drop (from 0) or the flash (-1) the keys will move.
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
        self.setMinimumSize(480, 320)
        self.setAccessibleName("Flight chart")
        self.theme: Theme = DAY
        self.step_us = 1_000
        self.selection = FLASH
        self.close_up = False
        self._prediction: Prediction | None = None
        self._water_y = 0.0
        self._time: TimeScale | None = None
        self._height: HeightScale | None = None
        self._hover: Handle | None = None
        self._drag: Handle | None = None
        self._grab_offset_us = 0
        self._scales = Layer(None, QPixmap())
        self._drops = Layer(None, QPixmap())

    # What it shows

    def show_prediction(self, prediction: Prediction) -> None:
        """Draw another prediction."""
        self._prediction = prediction
        if self._drag is None or self._time is None:
            self._rescale()
        self.setAccessibleDescription(prediction.in_words)
        self.update()

    def set_water_line(self, y: float) -> None:
        """Put the waterline at a height of the widget, so that it runs on through the neighbours."""
        self._water_y = y
        self._rescale()

    def select(self, what: int) -> None:
        """Take hold of a drop (from 0) or the flash (-1) for the keys."""
        if self._prediction is None or what >= len(self._prediction.sequence.drops):
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
        return self._water_y + CRATER_PX

    def lane_px(self) -> float:
        """Height of one lane of pulses: what the widget has left, within reason."""
        room = (self.height() - self.lanes_top() - AXIS_PX) / 3
        return max(LANE_MIN_PX, min(room, LANE_MAX_PX))

    def resizeEvent(self, event: QResizeEvent) -> None:
        """Fit the scales."""
        self._rescale()

    def paintEvent(self, event: QPaintEvent) -> None:
        """Draw everything anew; a few milliseconds."""
        if self._prediction is None or self._time is None or self._height is None:
            return
        with QPainter(self) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.drawPixmap(0, 0, self._scales_drawn())
            if self._drag is not None and self._drag.what != FLASH:
                # A layer that is new at each move is not worth keeping.
                self._brush(painter).paint_drops()
            else:
                painter.drawPixmap(0, 0, self._drops_drawn())
            self._brush(painter).paint_flash()

    def _brush(self, painter: QPainter) -> ChartPainter:
        assert self._prediction is not None and self._time is not None and self._height is not None
        return ChartPainter(
            painter=painter,
            area=QRectF(self.rect()),
            time=self._time,
            height=self._height,
            lanes_top=self.lanes_top(),
            lane_px=self.lane_px(),
            theme=self.theme,
            prediction=self._prediction,
            selection=self.selection,
            hover=None if self._hover is None else self._hover.what,
            focused=self.hasFocus(),
        )

    def _scales_drawn(self) -> QPixmap:
        """Return ticks and names, drawn anew only when the scales change."""
        key = (self._time, self._height, self.size(), self.devicePixelRatio(), self.theme.name)
        if self._scales.key != key:
            self._scales = Layer(key, self._layer(ChartPainter.paint_scales, self.theme.colour("air")))
        return self._scales.picture

    def _drops_drawn(self) -> QPixmap:
        """Return everything but scales and flash, drawn anew only when something of it changed."""
        assert self._prediction is not None
        # The curves themselves are in the key, not their id: an id may be given to others later.
        key = (Same(self._prediction.course.falls), self._scales.key, self.selection, self._hover)
        if self._drops.key != key:
            self._drops = Layer(key, self._layer(ChartPainter.paint_drops, Qt.GlobalColor.transparent))
        return self._drops.picture

    def _layer(self, paint: Callable[[ChartPainter], None], ground: QColor | Qt.GlobalColor) -> QPixmap:
        picture = QPixmap(self.size() * self.devicePixelRatio())
        picture.setDevicePixelRatio(self.devicePixelRatio())
        picture.fill(ground)
        with QPainter(picture) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            paint(self._brush(painter))
        return picture

    # Mouse

    def handle_at(self, place: QPointF) -> Handle | None:
        """Return what can be taken hold of at a place."""
        if self._prediction is None or self._time is None or self._height is None:
            return None
        sequence = self._prediction.sequence
        x, y = place.x(), place.y()
        valve_y = self.lanes_top() + self.lane_px()
        if valve_y <= y <= valve_y + self.lane_px():
            for index in reversed(range(len(sequence.drops))):
                pulse = sequence.drops[index]
                left, right = self._x(pulse.start_us), self._x(pulse.end_us)
                if abs(x - right) <= GRAB_PX * 0.8 and x > (left + right) / 2:
                    return Handle(index, end=True)
                if left - GRAB_PX <= x <= right + GRAB_PX:
                    return Handle(index)
        if abs(x - self._x(sequence.flash_us)) <= GRAB_PX:
            return Handle(FLASH)
        if y < self._water_y:
            return self._curve_at(x, y)
        return None

    def _curve_at(self, x: float, y: float) -> Handle | None:
        assert self._prediction is not None and self._time is not None and self._height is not None
        for curve in self._prediction.course.falls:
            for height, time in zip(curve.height_m, curve.time_s, strict=True):
                if abs(self._height.y(height) - y) < GRAB_PX * 1.5 and abs(self._time.x(time) - x) < GRAB_PX:
                    return Handle(curve.drop)
        return None

    def _x(self, time_us: int) -> float:
        assert self._time is not None
        return self._time.x(time_us / US_PER_S)

    def _us(self, x: float) -> int:
        assert self._time is not None
        return round(self._time.time_s(x) * US_PER_S)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Take hold of what lies there; on open air, bring the flash."""
        if event.button() != Qt.MouseButton.LeftButton or self._prediction is None or self._time is None:
            return
        place = event.position()
        handle = self.handle_at(place)
        if handle is None and place.y() < self._water_y:
            handle = Handle(FLASH)
            self._drag, self._grab_offset_us = handle, 0
            self.select(FLASH)
            self._move_to(place.x())
            return
        if handle is None:
            return
        self.select(handle.what)
        self._drag = handle
        self._grab_offset_us = self._value(handle) - self._us(place.x())

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """Drag, or show what could be dragged."""
        if self._drag is not None:
            self._move_to(event.position().x())
            return
        hover = self.handle_at(event.position())
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

    def _value(self, handle: Handle) -> int:
        assert self._prediction is not None
        sequence = self._prediction.sequence
        if handle.what == FLASH:
            return sequence.flash_us
        pulse = sequence.drops[handle.what]
        return pulse.end_us if handle.end else pulse.start_us

    def _move_to(self, x: float) -> None:
        assert self._prediction is not None and self._drag is not None
        # A tenth of a millisecond is as fine as any rig repeats.
        target = round((self._us(x) + self._grab_offset_us) / 100) * 100
        target = max(0, min(target, MAX_TIME_US))
        handle = self._drag
        sequence = self._prediction.sequence
        if handle.what == FLASH:
            moved = sequence.with_flash(target)
        elif handle.end:
            moved = sequence.with_open(handle.what, target - sequence.drops[handle.what].start_us)
        else:
            moved = sequence.with_start(handle.what, target)
        self.composed.emit(moved, f"drag {handle.what} {handle.end}")

    # Keys

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Arrows nudge what is selected; with Shift by the coarse step."""
        moved = self.nudged(event)
        if moved is None:
            super().keyPressEvent(event)
        else:
            self.composed.emit(moved, f"keys {self.selection} {event.key() in _VERTICAL}")

    def nudged(self, event: QKeyEvent) -> Sequence | None:
        """Return the sequence that an arrow key makes, or None for other keys."""
        if self._prediction is None:
            return None
        sequence, key = self._prediction.sequence, event.key()
        coarse = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        step = 5_000 if coarse else self.step_us
        if key in _HORIZONTAL:
            step = step if key == Qt.Key.Key_Right else -step
            if self.selection == FLASH:
                return sequence.with_flash(sequence.flash_us + step)
            return sequence.with_start(self.selection, sequence.drops[self.selection].start_us + step)
        if key in _VERTICAL and self.selection != FLASH:
            step = step if key == Qt.Key.Key_Up else -step
            return sequence.with_open(self.selection, sequence.drops[self.selection].open_us + step)
        return None


_HORIZONTAL = (Qt.Key.Key_Left, Qt.Key.Key_Right)
_VERTICAL = (Qt.Key.Key_Up, Qt.Key.Key_Down)
