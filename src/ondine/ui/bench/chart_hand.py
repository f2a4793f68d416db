"""The mouse on the flight chart: takes hold, drags, draws a frame round several, moves the window."""

from __future__ import annotations

from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QMouseEvent, QWheelEvent

from ondine.core.forecast.marks import marks_of
from ondine.core.setup import Setup
from ondine.core.timing.arrange import moved
from ondine.core.timing.items import FIRST_FLASH, Item, Kind
from ondine.core.timing.sequence import MAX_TIME_US, Sequence
from ondine.core.timing.snapping import Mark, Snap, nearest, on_grid
from ondine.ui.bench.grips import Grip
from ondine.ui.bench.selection import Selection

if TYPE_CHECKING:
    from ondine.ui.bench.flight_chart import FlightChart

FINEST_US = 100
"""A tenth of a millisecond is as fine as any rig repeats."""

GRID_US = {1_000: 5_000, 100: 1_000}
"""Round times, by the step of the keys."""

SNAP_PX, CLICK_PX = 8.0, 4.0
WHEEL_FACTOR, WHEEL_SHARE, NOTCH = 0.85, 0.08, 120.0
TOGETHER = Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier


class ChartHand:
    """What the mouse has hold of; the chart hands its events on."""

    def __init__(self, chart: FlightChart) -> None:
        self._chart = chart
        self.grip: Grip | None = None
        self.frame: QRectF | None = None
        """The frame that is being drawn round several items."""
        self.mark: Mark | None = None
        """What the dragged item has snapped to."""
        self._offset_us = 0
        self._marks: list[Mark] = []
        self._pressed = QPointF()
        self._panned: QPointF | None = None
        self._added: frozenset[Item] = frozenset()
        self._alone: Item | None = None

    @property
    def drags(self) -> bool:
        """Whether an item is being dragged."""
        return self.grip is not None

    def press(self, event: QMouseEvent) -> None:
        """Take hold of what lies there; on open air, bring the flash in hand; elsewhere begin a frame."""
        self._pressed, self.mark = event.position(), None
        if event.button() == Qt.MouseButton.MiddleButton:
            self._panned = event.position()
            return
        if event.button() != Qt.MouseButton.LeftButton:
            return
        grip, together = self._chart.grips().at(event.position()), bool(event.modifiers() & TOGETHER)
        if grip is not None and together:
            self._chart.show_selection(self._chart.selection.with_toggled(grip.item))
        elif grip is not None:
            self._take(grip, event.position())
        elif together or event.position().y() >= self._chart.sight.height.base_y:
            self._added = self._chart.selection.items if together else frozenset()
            self.frame = QRectF(event.position(), event.position())
        else:
            held = self._chart.selection.held
            self._take(Grip(held if held.kind is Kind.FLASH else FIRST_FLASH), None)
            self._move_to(event.position().x(), snaps=False)

    def _take(self, grip: Grip, place: QPointF | None) -> None:
        """Take hold of a grip, of several if it is one of them; at its own place if None is given."""
        chart = self._chart
        several = place is not None and not grip.end and grip.item in chart.selection.items
        self._alone = grip.item if several and chart.selection.others else None
        chart.show_selection(Selection.of(chart.selection.items, grip.item) if several else Selection(grip.item))
        self.grip = grip
        prediction = chart.prediction
        assert prediction is not None
        self._marks = marks_of(prediction.sequence, prediction.course.events, chart.moving)
        at_us = grip.value_us(prediction.sequence, chart.setup)
        self._offset_us = 0 if place is None else at_us - chart.sight.us_at(place.x())

    def move(self, event: QMouseEvent) -> bool:
        """Go on with what was begun; return whether anything was."""
        place = event.position()
        if self._panned is not None:
            self._chart.sight.pan(place - self._panned)
            self._panned = place
        elif self.frame is not None:
            self.frame = QRectF(self._pressed, place).normalized()
            self._chart.update()
        elif self.grip is not None:
            if (place - self._pressed).manhattanLength() >= 1:
                free = bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier)
                self._move_to(place.x(), snaps=not free)
        else:
            return False
        return True

    def release(self, event: QMouseEvent) -> None:
        """Let go; a frame selects what it touches."""
        if event.button() not in (Qt.MouseButton.LeftButton, Qt.MouseButton.MiddleButton):
            return
        self._panned = None
        clicked = (event.position() - self._pressed).manhattanLength() < CLICK_PX
        if self.frame is not None:
            touched = frozenset() if clicked else self._chart.grips().within(self.frame)
            items = touched | self._added
            self._chart.show_selection(Selection.of(items) if items else Selection(self._chart.selection.held))
            self.frame = None
        elif self.grip is not None:
            self.grip = self.mark = None
            if clicked and self._alone is not None:
                self._chart.show_selection(Selection(self._alone))
        self._chart.update()

    def wheel(self, event: QWheelEvent) -> None:
        """Zoom in time about the cursor; with Shift move in time; with Ctrl the same in height."""
        turned = event.angleDelta()
        notches = (turned.y() or turned.x()) / NOTCH
        shift = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        if event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            if shift:
                self._chart.sight.move(0.0, WHEEL_SHARE * notches, "wheel up")
            else:
                self._chart.sight.zoom(1.0, WHEEL_FACTOR**notches, None, "wheel high")
        elif shift:
            self._chart.sight.move(-WHEEL_SHARE * notches, 0.0, "wheel along")
        else:
            self._chart.sight.zoom(WHEEL_FACTOR**notches, 1.0, event.position().x(), "wheel")

    def _move_to(self, x: float, snaps: bool) -> None:
        chart = self._chart
        assert self.grip is not None
        target = self._snapped(chart.sight.us_at(x) + self._offset_us, snaps)
        target = max(0, min(target, MAX_TIME_US))
        change = partial(_drawn, self.grip, target, chart.moving, chart.setup)
        chart.composed.emit(change, f"drag {self.grip.item.kind} {self.grip.item.index} {self.grip.end}")

    def _snapped(self, target_us: int, snaps: bool) -> int:
        chart, self.mark = self._chart, None
        if snaps and chart.snap is Snap.GRID:
            return on_grid(target_us, GRID_US[chart.step_us])
        if snaps and chart.snap is Snap.EVENTS:
            self.mark = nearest(target_us, self._marks, chart.sight.us_at(SNAP_PX) - chart.sight.us_at(0.0))
            if self.mark is not None:
                return self.mark.at_us
        return on_grid(target_us, FINEST_US)


def _drawn(grip: Grip, target_us: int, items: frozenset[Item], setup: Setup, sequence: Sequence) -> Sequence:
    """Return a sequence in which a grip was drawn to a time, and what moves together with it as far."""
    if grip.end:
        return sequence.with_open(grip.item.index, target_us - sequence.drops[grip.item.index].start_us)
    return moved(sequence, items, target_us - grip.value_us(sequence, setup), setup)
